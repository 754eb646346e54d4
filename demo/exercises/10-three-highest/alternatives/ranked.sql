SELECT name, altitude_m
FROM (SELECT name, altitude_m, ROW_NUMBER() OVER (ORDER BY altitude_m DESC, name) AS place FROM huts) AS ranked
WHERE place <= 3
ORDER BY altitude_m DESC, name;
