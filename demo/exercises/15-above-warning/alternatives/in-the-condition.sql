SELECT st.name, r.name, COUNT(*)
FROM stations AS st
JOIN rivers AS r USING (river_id)
JOIN sensors AS se ON se.station_code = st.station_code AND se.kind = 'level'
JOIN readings AS re ON re.sensor_id = se.sensor_id AND re.value > st.warning_cm
GROUP BY st.station_code;
