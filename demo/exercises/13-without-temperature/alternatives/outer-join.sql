SELECT DISTINCT st.station_code
FROM stations AS st
LEFT JOIN sensors AS l ON l.station_code = st.station_code AND l.kind = 'level'
WHERE NOT EXISTS (SELECT 1 FROM sensors AS t WHERE t.station_code = st.station_code AND t.kind = 'temperature')
  AND (l.sensor_id IS NOT NULL OR NOT EXISTS (SELECT 1 FROM sensors AS s WHERE s.station_code = st.station_code));
