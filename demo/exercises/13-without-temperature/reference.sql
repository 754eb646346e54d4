SELECT station_code
FROM sensors
WHERE kind = 'level'
EXCEPT
SELECT station_code
FROM sensors
WHERE kind = 'temperature'
UNION
SELECT station_code
FROM (SELECT station_code FROM stations EXCEPT SELECT station_code FROM sensors) AS bare;
