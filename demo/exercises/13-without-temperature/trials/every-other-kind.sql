SELECT DISTINCT station_code FROM sensors WHERE kind <> 'temperature'
