SELECT name, altitude_m FROM huts ORDER BY altitude_m DESC LIMIT 3
