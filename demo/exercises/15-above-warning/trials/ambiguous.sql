SELECT name, COUNT(*) FROM stations JOIN rivers USING (river_id) JOIN sensors USING (station_code) JOIN readings USING (sensor_id) WHERE value > warning_cm GROUP BY station_code
