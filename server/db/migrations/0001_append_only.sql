CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION '% is append-only', TG_TABLE_NAME USING ERRCODE = 'integrity_constraint_violation';
END $$;
--> statement-breakpoint
CREATE TRIGGER trail_append_only BEFORE UPDATE OR DELETE ON "trail" FOR EACH ROW EXECUTE FUNCTION refuse_change();
--> statement-breakpoint
CREATE TRIGGER trail_no_truncate BEFORE TRUNCATE ON "trail" FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
--> statement-breakpoint
CREATE TRIGGER edition_append_only BEFORE UPDATE OR DELETE ON "edition" FOR EACH ROW EXECUTE FUNCTION refuse_change();
