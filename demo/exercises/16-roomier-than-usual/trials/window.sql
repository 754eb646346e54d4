SELECT name, region, beds FROM (SELECT *, AVG(beds) OVER (PARTITION BY region) AS usual FROM huts) AS w WHERE beds > usual
