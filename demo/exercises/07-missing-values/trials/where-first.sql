SELECT sensor_id, COUNT(*), COUNT(*) FROM readings WHERE value IS NULL GROUP BY sensor_id
