SELECT h.name,
       (SELECT COUNT(*) FROM stays AS s WHERE s.hut_id = h.hut_id) AS stays,
       (SELECT TOTAL(s.nights) FROM stays AS s WHERE s.hut_id = h.hut_id) AS nights
FROM huts AS h;
