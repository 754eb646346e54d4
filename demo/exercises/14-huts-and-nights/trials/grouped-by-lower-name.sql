SELECT LOWER(h.name), COUNT(s.stay_id), COALESCE(SUM(s.nights), 0) FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY LOWER(h.name);
