SELECT name, region, beds FROM huts WHERE beds > (SELECT AVG(beds) FROM huts)
