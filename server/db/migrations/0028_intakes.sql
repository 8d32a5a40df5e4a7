CREATE TABLE "intake_answer" (
	"id" uuid PRIMARY KEY NOT NULL,
	"form_id" uuid NOT NULL,
	"link_id" uuid,
	"token_hash" text NOT NULL,
	"name" text DEFAULT '' NOT NULL,
	"email" text DEFAULT '' NOT NULL,
	"invited_by" uuid,
	"record_id" uuid,
	"expires_at" timestamp with time zone,
	"language" text NOT NULL,
	"answers" jsonb NOT NULL,
	"key_id" uuid,
	"reference" text,
	"asked" text,
	"version" integer DEFAULT 1 NOT NULL,
	"state" text NOT NULL,
	"problems" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"outcome" text,
	"differences" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"agreement_ids" uuid[] DEFAULT '{}' NOT NULL,
	"address" text,
	"tries" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"handed_in_at" timestamp with time zone,
	"seen" boolean DEFAULT false NOT NULL,
	CONSTRAINT "intake_answer_token_hash_unique" UNIQUE("token_hash"),
	CONSTRAINT "intake_answer_reference" UNIQUE("key_id","reference"),
	CONSTRAINT "intake_answer_language" CHECK ("intake_answer"."language" in ('en', 'es', 'fr')),
	CONSTRAINT "intake_answer_state" CHECK ("intake_answer"."state" in ('begun', 'handed in', 'made', 'needs a hand', 'put aside')),
	CONSTRAINT "intake_answer_outcome" CHECK ("intake_answer"."outcome" in ('new', 'changed', 'same', 'taken', 'kept'))
);
--> statement-breakpoint
CREATE TABLE "intake_file" (
	"answer_id" uuid NOT NULL,
	"question" text NOT NULL,
	"sha256" text NOT NULL,
	"name" text NOT NULL,
	"size" integer NOT NULL,
	"media_type" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "intake_file_answer_id_question_sha256_pk" PRIMARY KEY("answer_id","question","sha256")
);
--> statement-breakpoint
CREATE TABLE "intake_form" (
	"id" uuid PRIMARY KEY NOT NULL,
	"template_ids" uuid[] NOT NULL,
	"packet_id" uuid,
	"content" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"owner_id" uuid NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "open_link" (
	"id" uuid PRIMARY KEY NOT NULL,
	"form_id" uuid NOT NULL,
	"token" text NOT NULL,
	"name" text NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	"made_by" uuid NOT NULL,
	"closes_at" timestamp with time zone,
	"most_answers" integer,
	"per_hour" integer NOT NULL,
	"origins" text[] NOT NULL,
	"closed_at" timestamp with time zone,
	CONSTRAINT "open_link_token_unique" UNIQUE("token")
);
--> statement-breakpoint
CREATE TABLE "record_file" (
	"record_id" uuid NOT NULL,
	"sha256" text NOT NULL,
	"name" text NOT NULL,
	"size" integer NOT NULL,
	"media_type" text NOT NULL,
	"source" text NOT NULL,
	"agreement_id" uuid,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "record_file_record_id_sha256_name_pk" PRIMARY KEY("record_id","sha256","name")
);
--> statement-breakpoint
ALTER TABLE "link" ADD COLUMN "from_form" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "from_form" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "intake_answer" ADD CONSTRAINT "intake_answer_form_id_intake_form_id_fk" FOREIGN KEY ("form_id") REFERENCES "public"."intake_form"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_answer" ADD CONSTRAINT "intake_answer_link_id_open_link_id_fk" FOREIGN KEY ("link_id") REFERENCES "public"."open_link"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_answer" ADD CONSTRAINT "intake_answer_invited_by_person_id_fk" FOREIGN KEY ("invited_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_answer" ADD CONSTRAINT "intake_answer_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_answer" ADD CONSTRAINT "intake_answer_key_id_api_key_id_fk" FOREIGN KEY ("key_id") REFERENCES "public"."api_key"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_file" ADD CONSTRAINT "intake_file_answer_id_intake_answer_id_fk" FOREIGN KEY ("answer_id") REFERENCES "public"."intake_answer"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_form" ADD CONSTRAINT "intake_form_owner_id_person_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "intake_form" ADD CONSTRAINT "intake_form_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "open_link" ADD CONSTRAINT "open_link_form_id_intake_form_id_fk" FOREIGN KEY ("form_id") REFERENCES "public"."intake_form"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "open_link" ADD CONSTRAINT "open_link_made_by_person_id_fk" FOREIGN KEY ("made_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_file" ADD CONSTRAINT "record_file_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "intake_answer_by_form" ON "intake_answer" USING btree ("form_id","created_at");--> statement-breakpoint
CREATE INDEX "intake_answer_waiting" ON "intake_answer" USING btree ("handed_in_at") WHERE "intake_answer"."state" = 'handed in';--> statement-breakpoint
CREATE INDEX "intake_answer_by_record" ON "intake_answer" USING btree ("record_id");