SELECT s.hut_id FROM stays AS s LEFT JOIN wardens AS w ON w.hut_id = s.hut_id WHERE w.warden_id IS NULL
