SELECT station_code FROM stations EXCEPT SELECT station_code FROM sensors WHERE kind = 'temperature'
