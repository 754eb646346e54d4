SELECT * FROM (SELECT sensor_id, COUNT(*) AS readings, SUM(value IS NULL) AS missing FROM readings GROUP BY sensor_id) AS counted WHERE missing > 0
