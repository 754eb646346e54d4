SELECT station_code, CASE WHEN warning_cm IS NULL THEN 'no warning level' WHEN closed IS NOT NULL THEN 'closed' ELSE 'watched' END AS state FROM stations ORDER BY station_code
