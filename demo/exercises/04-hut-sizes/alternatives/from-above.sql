SELECT name,
       CASE WHEN beds >= 40 THEN 'large'
            WHEN beds >= 20 THEN 'middling'
            ELSE 'small' END AS size
FROM huts;
