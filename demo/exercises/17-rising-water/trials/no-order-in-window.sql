SELECT taken_at, value, value - FIRST_VALUE(value) OVER () FROM readings WHERE sensor_id = 1 AND taken_at < '2026-03-02' ORDER BY taken_at
