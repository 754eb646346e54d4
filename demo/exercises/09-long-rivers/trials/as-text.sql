SELECT name, length_km FROM rivers ORDER BY CAST(length_km AS TEXT) DESC
