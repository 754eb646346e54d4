SELECT st.name AS station, r.name AS river, COUNT(*) AS above
FROM readings AS re
JOIN sensors AS se ON se.sensor_id = re.sensor_id
JOIN stations AS st ON st.station_code = se.station_code
JOIN rivers AS r ON r.river_id = st.river_id
WHERE re.value > st.warning_cm
GROUP BY st.station_code, st.name, r.name
