SELECT taken_at, value, ROUND(value - LAG(value) OVER (ORDER BY taken_at)) AS rise
FROM readings
WHERE sensor_id = 1 AND taken_at >= '2026-03-01' AND taken_at < '2026-03-02'
ORDER BY taken_at
