SELECT meal_plan,
       COUNT(*) AS stays,
       SUM(CASE WHEN paid_on IS NULL THEN 1 ELSE 0 END) AS unpaid
FROM stays
GROUP BY meal_plan;
