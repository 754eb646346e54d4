SELECT station_code FROM sensors WHERE kind = 'level' EXCEPT SELECT station_code FROM sensors WHERE kind = 'temperature'
