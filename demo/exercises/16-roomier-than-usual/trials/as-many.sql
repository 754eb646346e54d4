SELECT name, region, beds FROM huts h WHERE beds >= (SELECT AVG(beds) FROM huts o WHERE o.region = h.region)
