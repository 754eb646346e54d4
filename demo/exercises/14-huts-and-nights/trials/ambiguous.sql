SELECT name, COUNT(stay_id), SUM(nights) FROM huts LEFT JOIN stays ON hut_id = hut_id GROUP BY name;
