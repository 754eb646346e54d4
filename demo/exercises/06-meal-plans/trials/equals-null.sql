SELECT meal_plan, COUNT(*), SUM(CASE WHEN paid_on = NULL THEN 1 ELSE 0 END) FROM stays GROUP BY meal_plan;
