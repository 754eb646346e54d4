SELECT station_code, name, km FROM stations WHERE km > 20 AND km < 60
