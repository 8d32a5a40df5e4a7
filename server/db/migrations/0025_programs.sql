CREATE TABLE "api_key" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"person_id" uuid NOT NULL,
	"scopes" text[] NOT NULL,
	"handle" text NOT NULL,
	"secret_hash" text NOT NULL,
	"former_hash" text,
	"former_until" timestamp with time zone,
	"created_at" timestamp with time zone NOT NULL,
	"created_by" uuid NOT NULL,
	"expires_at" timestamp with time zone,
	"last_used_at" timestamp with time zone,
	"revoked_at" timestamp with time zone,
	CONSTRAINT "api_key_handle_unique" UNIQUE("handle")
);
--> statement-breakpoint
CREATE TABLE "program_start" (
	"id" uuid PRIMARY KEY NOT NULL,
	"key_id" uuid NOT NULL,
	"reference" text NOT NULL,
	"asked" text NOT NULL,
	"edition_id" uuid NOT NULL,
	"packet_editions" uuid[] NOT NULL,
	"data" jsonb NOT NULL,
	"state" text NOT NULL,
	"agreement_id" uuid,
	"problems" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"tries" integer DEFAULT 0 NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone,
	CONSTRAINT "program_start_reference" UNIQUE("key_id","reference"),
	CONSTRAINT "program_start_state" CHECK ("program_start"."state" in ('taken', 'made', 'refused'))
);
--> statement-breakpoint
ALTER TABLE "api_key" ADD CONSTRAINT "api_key_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "api_key" ADD CONSTRAINT "api_key_created_by_person_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "program_start" ADD CONSTRAINT "program_start_key_id_api_key_id_fk" FOREIGN KEY ("key_id") REFERENCES "public"."api_key"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "program_start" ADD CONSTRAINT "program_start_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "program_start_taken" ON "program_start" USING btree ("at") WHERE "program_start"."state" = 'taken';