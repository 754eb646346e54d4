SELECT name, region, beds FROM huts h WHERE beds >= (SELECT MAX(beds) FROM huts o WHERE o.region = h.region)
