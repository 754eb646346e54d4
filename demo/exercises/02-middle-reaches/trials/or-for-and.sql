SELECT station_code, name, km FROM stations WHERE km >= 20 OR km <= 60
