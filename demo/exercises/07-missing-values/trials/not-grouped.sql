SELECT sensor_id, COUNT(*), COUNT(*) - COUNT(value) FROM readings
