SELECT station_code, name, km FROM stations WHERE NOT (km < 20 OR km > 60)
