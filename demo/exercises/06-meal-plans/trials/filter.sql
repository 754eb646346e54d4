SELECT meal_plan, COUNT(*), COUNT(*) FILTER (WHERE paid_on IS NULL) FROM stays GROUP BY 1;
