SELECT name, COUNT(stay_id), TOTAL(nights) FROM huts LEFT JOIN stays USING (hut_id) GROUP BY hut_id;
