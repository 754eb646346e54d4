SELECT hut_id, guest FROM stays EXCEPT SELECT hut_id FROM wardens
