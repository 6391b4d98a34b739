-- A classic highlight beside metalness tints nothing: it is put aside, as files are read now.
UPDATE "assets" SET "source" = jsonb_set("source", '{materials}', (
	SELECT jsonb_agg(
		CASE
			WHEN "material"->>'workflow' = 'metalRough'
				AND jsonb_typeof("material"#>'{channels,specularColor,map}') = 'null'
				AND "material"#>>'{channels,specularColor,source,detail}' ~ '^(SpecularColor|line [0-9]+: [Kk][Ss])$'
			THEN jsonb_set(
				"material" #- '{channels,specularColor}',
				'{extras}',
				coalesce("material"->'extras', '{}') || jsonb_build_object('classic highlight', (
					SELECT string_agg("component", ' ' ORDER BY "place")
					FROM jsonb_array_elements_text("material"#>'{channels,specularColor,value}')
						WITH ORDINALITY AS "components"("component", "place")
				))
			)
			ELSE "material"
		END
		ORDER BY "place"
	)
	FROM jsonb_array_elements("source"->'materials') WITH ORDINALITY AS "listed"("material", "place")
))
WHERE "source"->>'format' IN ('fbx', 'obj')
	AND jsonb_array_length(coalesce("source"->'materials', '[]')) > 0
	AND "source"->'materials' @> '[{"workflow": "metalRough"}]';
