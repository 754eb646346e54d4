SELECT DISTINCT hut_id
FROM stays
WHERE hut_id NOT IN (SELECT hut_id FROM wardens WHERE hut_id IS NOT NULL);
