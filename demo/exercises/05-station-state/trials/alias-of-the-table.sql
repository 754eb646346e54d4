SELECT s.station_code, CASE WHEN s.closed IS NOT NULL THEN 'closed' WHEN s.warning_cm IS NULL THEN 'no warning level' ELSE 'watched' END FROM stations AS s ORDER BY 1
