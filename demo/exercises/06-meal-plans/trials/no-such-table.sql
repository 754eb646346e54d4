SELECT meal_plan, COUNT(*) FROM stay GROUP BY meal_plan;
