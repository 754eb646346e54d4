SELECT sensor_id,
       COUNT(*) AS readings,
       COUNT(*) - COUNT(value) AS missing
FROM readings
GROUP BY sensor_id
HAVING COUNT(value) < COUNT(*);
