SELECT name AS hut, beds + beds + beds AS blankets
FROM huts;
