SELECT station_code, CASE WHEN closed <> NULL THEN 'closed' WHEN warning_cm = NULL THEN 'no warning level' ELSE 'watched' END AS state FROM stations ORDER BY station_code
