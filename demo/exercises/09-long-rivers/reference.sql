SELECT name, length_km
FROM rivers
ORDER BY length_km DESC;
