SELECT hut_id
FROM stays
EXCEPT
SELECT hut_id
FROM wardens;
