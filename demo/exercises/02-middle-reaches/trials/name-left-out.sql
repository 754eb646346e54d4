SELECT station_code, km FROM stations WHERE km BETWEEN 20 AND 60
