SELECT station_code, CASE WHEN closed IS NOT NULL THEN 'closed' WHEN warning_cm IS NULL THEN 'no warning level' ELSE 'watched' END AS state FROM stations ORDER BY station_code DESC
