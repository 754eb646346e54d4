SELECT station_code, name, km FROM stations WHERE km BETWEEN 60 AND 20
