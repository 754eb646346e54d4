SELECT station_code FROM sensors WHERE kind = 'level' INTERSECT SELECT station_code FROM sensors WHERE kind = 'temperature'
