SELECT meal_plan,
       COUNT(*) AS stays,
       COUNT(*) - COUNT(paid_on) AS unpaid
FROM stays
GROUP BY meal_plan;
