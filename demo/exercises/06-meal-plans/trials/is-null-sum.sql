SELECT meal_plan AS plan, COUNT(stay_id) AS n, SUM(paid_on IS NULL) AS open_bills FROM stays GROUP BY meal_plan ORDER BY n DESC;
