SELECT name, CASE WHEN beds BETWEEN 20 AND 39 THEN 'middling' WHEN beds < 20 THEN 'small' ELSE 'large' END FROM huts
