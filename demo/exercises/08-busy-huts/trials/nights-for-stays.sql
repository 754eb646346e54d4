SELECT hut_id, COUNT(*), SUM(nights) FROM stays GROUP BY hut_id HAVING SUM(nights) >= 2
