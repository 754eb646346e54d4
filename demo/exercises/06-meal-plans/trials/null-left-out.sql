SELECT meal_plan, COUNT(*), COUNT(*) - COUNT(paid_on) FROM stays WHERE meal_plan IS NOT NULL GROUP BY meal_plan;
