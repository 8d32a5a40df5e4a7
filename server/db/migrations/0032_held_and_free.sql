CREATE UNLOGGED TABLE "checked_row" (
	"check_id" uuid NOT NULL,
	"run_id" uuid NOT NULL,
	"row" integer NOT NULL,
	"said" jsonb NOT NULL,
	CONSTRAINT "checked_row_check_id_row_pk" PRIMARY KEY("check_id","row")
);
--> statement-breakpoint
CREATE TABLE "free_number" (
	"series_id" text NOT NULL,
	"number" integer NOT NULL,
	CONSTRAINT "free_number_series_id_number_pk" PRIMARY KEY("series_id","number")
);
--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "held_by" uuid;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "held_until" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "held_by" uuid;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "held_until" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "claim" ADD COLUMN "at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "worker" ADD COLUMN "holder" uuid DEFAULT gen_random_uuid() NOT NULL;--> statement-breakpoint
ALTER TABLE "program_start" ADD COLUMN "held_by" uuid;--> statement-breakpoint
ALTER TABLE "program_start" ADD COLUMN "held_until" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "intake_answer" ADD COLUMN "invited_email" text DEFAULT '' NOT NULL;--> statement-breakpoint
UPDATE "intake_answer" SET "invited_email" = "email" WHERE "invited_by" IS NOT NULL AND "handed_in_at" IS NULL;--> statement-breakpoint
ALTER TABLE "intake_answer" ADD COLUMN "held_by" uuid;--> statement-breakpoint
ALTER TABLE "intake_answer" ADD COLUMN "held_until" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "aftermath_step" ADD COLUMN "held_by" uuid;--> statement-breakpoint
ALTER TABLE "free_number" ADD CONSTRAINT "free_number_series_id_series_id_fk" FOREIGN KEY ("series_id") REFERENCES "public"."series"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "checked_row_run" ON "checked_row" USING btree ("run_id");