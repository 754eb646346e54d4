SELECT hut_id, COUNT(stay_id) AS stays, SUM(nights) AS nights
FROM stays
GROUP BY 1
HAVING COUNT(stay_id) > 1;
