SELECT name, altitude_m FROM huts ORDER BY altitude_m DESC, name ASC LIMIT 3 OFFSET 0
