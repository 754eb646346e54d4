SELECT hut_id FROM huts EXCEPT SELECT hut_id FROM wardens
