SELECT name, region, altitude_m
FROM huts
WHERE NOT altitude_m < 2000
ORDER BY altitude_m DESC, name;
