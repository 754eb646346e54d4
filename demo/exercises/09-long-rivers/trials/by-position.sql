SELECT name, length_km FROM rivers ORDER BY 2 DESC
