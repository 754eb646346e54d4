SELECT name, region, altitude FROM huts WHERE altitude >= 2000 ORDER BY altitude DESC;
