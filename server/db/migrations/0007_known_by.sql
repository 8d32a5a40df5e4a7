-- What customers are known by in a run is a field or a column now, not always a field.
update "run" set "setup" = jsonb_set("setup", '{sameBy}', jsonb_build_object('field', "setup"->>'sameBy'))
where jsonb_typeof("setup"->'sameBy') = 'string';
