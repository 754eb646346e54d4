SELECT name AS hut, beds * 3 AS blankets
FROM huts;
