CREATE TABLE "claim" (
	"id" uuid PRIMARY KEY NOT NULL,
	"series_id" text NOT NULL,
	"number" integer NOT NULL,
	"origin" jsonb NOT NULL,
	"occasion" text,
	"run_id" uuid GENERATED ALWAYS AS ((origin->>'run')::uuid) STORED,
	"row" integer GENERATED ALWAYS AS ((origin->>'row')::int) STORED,
	CONSTRAINT "claim_occasion_unique" UNIQUE("occasion"),
	CONSTRAINT "claim_number" UNIQUE("series_id","number"),
	CONSTRAINT "claim_row" UNIQUE("run_id","row"),
	CONSTRAINT "claim_origin" CHECK (("claim"."origin"->>'kind' = 'row') = ("claim"."run_id" is not null and "claim"."row" is not null)
        and ("claim"."origin"->>'kind' = 'row') = ("claim"."occasion" is null))
);
--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "packet_editions" uuid[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "claim" ADD CONSTRAINT "claim_series_id_series_id_fk" FOREIGN KEY ("series_id") REFERENCES "public"."series"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "claim" ADD CONSTRAINT "claim_run_id_row_run_row_run_id_row_fk" FOREIGN KEY ("run_id","row") REFERENCES "public"."run_row"("run_id","row") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
INSERT INTO "claim" ("id", "series_id", "number", "origin")
SELECT coalesce(made.id, gen_random_uuid()), allotted.series_id, allotted.number,
  jsonb_build_object('kind', 'row', 'run', allotted.run_id, 'row', allotted.row)
FROM "agreement_number" AS allotted
LEFT JOIN "agreement" AS made ON made.run_id = allotted.run_id AND made.row = allotted.row;--> statement-breakpoint
UPDATE "agreement" SET "packet_editions" = run.packet_editions FROM "run" WHERE run.id = "agreement"."run_id";
