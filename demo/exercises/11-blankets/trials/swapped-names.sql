SELECT name AS blankets, beds * 3 AS hut FROM huts
