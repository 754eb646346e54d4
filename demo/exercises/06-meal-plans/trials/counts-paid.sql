SELECT meal_plan, COUNT(*), COUNT(paid_on) FROM stays GROUP BY meal_plan;
