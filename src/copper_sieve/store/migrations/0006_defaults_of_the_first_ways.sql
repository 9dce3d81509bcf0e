-- What a step was not told meant the defaults of its operation's first way. From here on they are written out, so that a newer
-- way with other defaults changes no recipe. Files that a plan leaves out are told apart from the sentence that says why.

WITH first AS (SELECT key AS op, value AS params FROM jsonb_each($${
  "albedo_from_photo": {"evenness": 0.8, "breadth": 0.12, "lift": 0.0, "saturation": 1.0, "dark": 0.0, "bright": 1.0},
  "blend_normals": {"amount": 1.0, "way": "turned", "invert": false},
  "color_bled": {"solid": 0.9, "reach": 0.1},
  "color_with_occlusion": {"amount": 1.0},
  "color_without_occlusion": {"amount": 1.0},
  "constant": {"value": 0.5},
  "curvature_from_normal": {"scale": 0.012, "spread": 0.3, "strength": 1.0},
  "emissive_by_picks": {"picks": [], "softness": 0.35, "gain": 1.0},
  "emissive_by_range": {"color": "#808080", "tolerance": 0.12, "softness": 0.06, "lightness": 0.5, "cleanup": 0.0, "invert": false, "gain": 1.0},
  "height_by_picks": {"picks": [], "is_lit": false, "light": 135.0, "smoothing": 0.002},
  "height_from_color": {"detail": [0.0, 0.7, 1.0, 0.6, 0.25], "contrast": 1.0, "offset": 0.0, "smoothing": 0.002, "invert": false, "gray": "lightness", "shading": 0.0, "light": 135.0},
  "height_from_gray": {"contrast": 0.8, "offset": 0.0, "rim": 0.004, "noise": 0.02, "grain": 0.01, "invert": false},
  "height_from_normal": {"filter": "central", "level": true},
  "metallic_by_picks": {"picks": [], "softness": 0.35},
  "metallic_by_range": {"color": "#808080", "tolerance": 0.12, "softness": 0.06, "lightness": 0.5, "cleanup": 0.0, "invert": false},
  "metallic_from_specular": {"reflectance": 0.04},
  "mixed": {"amount": 0.5, "way": "replace", "invert": false},
  "mixed_normals": {"amount": 0.5, "invert": false},
  "normal_from_color": {"strength": 1.0, "detail": [0.0, 0.7, 1.0, 0.6, 0.25], "finest": 0.0, "keeps": "all", "breadth": 0.02, "noise": 0.0, "filter": "scharr3", "gray": "lightness", "soft": 0.002, "invert": false},
  "normal_from_height": {"strength": 1.0, "detail": [1.0, 1.0, 1.0, 1.0, 1.0], "finest": 0.0, "keeps": "all", "breadth": 0.02, "noise": 0.0, "filter": "scharr3"},
  "occlusion_from_height": {"reach": 0.08, "darkness": 1.0, "finest": 0.0, "directions": 12},
  "opacity_by_picks": {"picks": [], "softness": 0.35},
  "opacity_by_range": {"color": "#808080", "tolerance": 0.12, "softness": 0.06, "lightness": 0.5, "cleanup": 0.0, "invert": false},
  "opacity_cut": {"threshold": 0.5, "softness": 1.0, "invert": false},
  "opacity_from_color": {"threshold": 0.5, "softness": 0.1, "invert": false, "gray": "lightness"},
  "roughness_by_picks": {"picks": []},
  "roughness_from_color": {"mean": 0.65, "spread": 0.09, "detail": 0.35, "invert": false, "gray": "lightness"}
}$$::jsonb)),
written AS (
    SELECT v.id, jsonb_object_agg(n.key, jsonb_set(n.value, '{params}', coalesce(f.params, '{}') || coalesce(n.value->'params', '{}'))) AS nodes
      FROM recipe_version v
     CROSS JOIN LATERAL jsonb_each(v.recipe->'nodes') AS n
      LEFT JOIN first f ON f.op = n.value->>'op'
     WHERE jsonb_typeof(v.recipe->'nodes') = 'object'
     GROUP BY v.id
)
UPDATE recipe_version v SET recipe = jsonb_set(v.recipe, '{nodes}', w.nodes) FROM written w WHERE w.id = v.id;

UPDATE delivery d SET plan = (
    SELECT coalesce(jsonb_agg(jsonb_set(job.value, '{plan,files}', (
             SELECT coalesce(jsonb_agg(
                      CASE WHEN f.value->>'left_out' IS NULL THEN f.value
                           WHEN f.value->>'left_out' = 'left out by you' THEN f.value || '{"left_out": "unwanted", "why": "left out by you"}'
                           ELSE f.value || jsonb_build_object('left_out', 'nothing', 'why', f.value->'left_out')
                      END ORDER BY f.number), '[]')
               FROM jsonb_array_elements(job.value->'plan'->'files') WITH ORDINALITY AS f(value, number))) ORDER BY job.number), '[]')
      FROM jsonb_array_elements(d.plan) WITH ORDINALITY AS job(value, number))
 WHERE jsonb_typeof(d.plan) = 'array';
