SELECT hut_id, COUNT(*), SUM(nights) FROM stays GROUP BY hut_id HAVING COUNT(*) > 2
