SELECT station_code,
       CASE WHEN closed IS NULL AND warning_cm IS NOT NULL THEN 'watched'
            WHEN closed IS NULL THEN 'no warning level'
            ELSE 'closed' END AS state
FROM stations
ORDER BY station_code;
