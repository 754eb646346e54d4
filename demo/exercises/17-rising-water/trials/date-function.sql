SELECT taken_at, value, value - LAG(value) OVER (ORDER BY taken_at) FROM readings WHERE sensor_id = 1 AND DATE(taken_at) = '2026-03-01' ORDER BY 1
