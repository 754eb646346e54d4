SELECT hut_id, COUNT(*) AS n, SUM(nights) FROM stays GROUP BY hut_id HAVING n >= 2
