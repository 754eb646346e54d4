SELECT DISTINCT hut_id FROM stays AS s WHERE NOT EXISTS (SELECT 1 FROM wardens AS w WHERE w.hut_id = s.hut_id)
