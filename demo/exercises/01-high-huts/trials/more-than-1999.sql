SELECT h.name, h.region, h.altitude_m AS height
FROM huts AS h
WHERE h.altitude_m > 1999
ORDER BY height DESC, h.name;
