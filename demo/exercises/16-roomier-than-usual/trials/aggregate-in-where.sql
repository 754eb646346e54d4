SELECT name, region, beds FROM huts WHERE beds > AVG(beds) GROUP BY region
