SELECT name, altitude_m FROM huts LIMIT 3 ORDER BY altitude_m DESC, name
