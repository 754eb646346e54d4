SELECT hut_id, COUNT(*), SUM(DISTINCT nights) FROM stays GROUP BY hut_id HAVING COUNT(*) >= 2
