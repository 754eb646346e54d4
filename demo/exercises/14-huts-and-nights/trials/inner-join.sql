SELECT h.name, COUNT(*) AS stays, SUM(s.nights) AS nights FROM huts h JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id;
