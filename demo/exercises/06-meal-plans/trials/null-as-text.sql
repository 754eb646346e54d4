SELECT COALESCE(meal_plan, ''), COUNT(*), COUNT(*) - COUNT(paid_on) FROM stays GROUP BY COALESCE(meal_plan, '');
