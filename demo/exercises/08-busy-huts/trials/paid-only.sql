SELECT hut_id, COUNT(paid_on), SUM(nights) FROM stays GROUP BY hut_id HAVING COUNT(paid_on) >= 2
