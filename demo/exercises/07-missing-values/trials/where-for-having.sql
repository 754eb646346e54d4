SELECT sensor_id, COUNT(*), COUNT(*) - COUNT(value) FROM readings WHERE COUNT(value) < COUNT(*) GROUP BY sensor_id
