SELECT name, region, beds FROM (SELECT huts.*, AVG(beds) OVER (PARTITION BY region) AS usual FROM huts) w WHERE beds > usual
