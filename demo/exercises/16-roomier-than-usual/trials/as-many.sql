SELECT name, region, beds FROM huts AS h WHERE beds >= (SELECT AVG(beds) FROM huts AS o WHERE o.region = h.region)
