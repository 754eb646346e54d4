SELECT name, CASE WHEN beds < 20 THEN 'small' ELSE 'large' FROM huts
