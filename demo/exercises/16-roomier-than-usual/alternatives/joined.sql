SELECT h.name, h.region, h.beds
FROM huts h
JOIN (SELECT region, AVG(beds) AS usual FROM huts GROUP BY region) r ON r.region = h.region
WHERE h.beds > r.usual;
