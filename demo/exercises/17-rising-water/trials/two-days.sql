SELECT taken_at, value, value - LAG(value) OVER (ORDER BY taken_at) FROM readings WHERE sensor_id = 1 AND taken_at < '2026-03-03' ORDER BY taken_at
