SELECT DISTINCT hut_id FROM stays WHERE hut_id NOT IN (SELECT hut_id FROM wardens)
