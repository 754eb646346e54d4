SELECT h.name,
       COUNT(s.stay_id) AS stays,
       COALESCE(SUM(s.nights), 0) AS nights
FROM huts AS h
LEFT JOIN stays AS s ON s.hut_id = h.hut_id
GROUP BY h.hut_id, h.name;
