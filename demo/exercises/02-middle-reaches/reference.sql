SELECT station_code, name, km
FROM stations
WHERE km BETWEEN 20 AND 60;
