SELECT hut_id FROM wardens EXCEPT SELECT hut_id FROM stays
