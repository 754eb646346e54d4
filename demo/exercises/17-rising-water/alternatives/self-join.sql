SELECT now.taken_at, now.value, now.value - before.value AS rise
FROM readings AS now
LEFT JOIN readings AS before
       ON before.sensor_id = 1
      AND before.taken_at = (SELECT MAX(taken_at) FROM readings AS r
                             WHERE r.sensor_id = 1 AND r.taken_at >= '2026-03-01' AND r.taken_at < now.taken_at)
WHERE now.sensor_id = 1 AND now.taken_at LIKE '2026-03-01%'
ORDER BY now.taken_at;
