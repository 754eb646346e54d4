SELECT h.name, COUNT(s.stay_id), SUM(s.nights) FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id;
