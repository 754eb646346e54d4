SELECT name, length_km FROM rivers ORDER BY name
