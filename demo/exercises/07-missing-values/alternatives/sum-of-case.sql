SELECT sensor_id,
       COUNT(*) AS readings,
       SUM(CASE WHEN value IS NULL THEN 1 ELSE 0 END) AS missing
FROM readings
GROUP BY sensor_id
HAVING missing > 0;
