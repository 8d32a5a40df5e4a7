CREATE TABLE "one_off" (
	"id" uuid PRIMARY KEY NOT NULL,
	"draft" jsonb NOT NULL,
	"draft_version" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL,
	"record_id" uuid,
	"agreement_id" uuid,
	CONSTRAINT "one_off_draft_version" CHECK ("one_off"."draft_version" > 0)
);
--> statement-breakpoint
ALTER TABLE "template" ADD COLUMN "one_off" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "one_off" ADD CONSTRAINT "one_off_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "one_off" ADD CONSTRAINT "one_off_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "one_off" ADD CONSTRAINT "one_off_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;