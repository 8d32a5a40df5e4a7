CREATE TABLE "program_run" (
	"key_id" uuid NOT NULL,
	"reference" text NOT NULL,
	"asked" text NOT NULL,
	"run_id" uuid NOT NULL,
	CONSTRAINT "program_run_key_id_reference_pk" PRIMARY KEY("key_id","reference"),
	CONSTRAINT "program_run_run_id_unique" UNIQUE("run_id")
);
--> statement-breakpoint
ALTER TABLE "program_start" ADD COLUMN "record_id" uuid;--> statement-breakpoint
ALTER TABLE "program_run" ADD CONSTRAINT "program_run_key_id_api_key_id_fk" FOREIGN KEY ("key_id") REFERENCES "public"."api_key"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "program_start" ADD CONSTRAINT "program_start_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;