SELECT hut_id,
       COUNT(*) AS stays,
       SUM(nights) AS nights
FROM stays
GROUP BY hut_id
HAVING COUNT(*) >= 2;
