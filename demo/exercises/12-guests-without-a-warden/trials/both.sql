SELECT hut_id FROM stays INTERSECT SELECT hut_id FROM wardens
