-- A given height whose rise was never changed from what the program took for granted was assumed, and edges were guessed.

UPDATE recipe_version SET recipe = jsonb_set(recipe, '{facts,rise_from}', '"assumed"')
 WHERE recipe->'facts'->>'rise' = '0.02' AND recipe->'masters'->>'height' LIKE 'source:%' AND NOT recipe->'facts' ? 'rise_from';

UPDATE recipe_version SET recipe = jsonb_set(recipe, '{facts,edges_from}', '"guessed"') WHERE NOT recipe->'facts' ? 'edges_from';
