SELECT taken_at, value, value - LAG(value, 1, value) OVER (ORDER BY taken_at) FROM readings WHERE sensor_id = 1 AND taken_at < '2026-03-02' ORDER BY taken_at
