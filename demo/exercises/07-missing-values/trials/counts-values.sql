SELECT sensor_id, COUNT(value), COUNT(*) - COUNT(value) FROM readings GROUP BY sensor_id HAVING COUNT(value) < COUNT(*)
