CREATE TABLE "agreement" (
	"id" uuid PRIMARY KEY NOT NULL,
	"number" text NOT NULL,
	"name" text NOT NULL,
	"file_name" text NOT NULL,
	"edition_id" uuid NOT NULL,
	"run_id" uuid NOT NULL,
	"row" integer NOT NULL,
	"state" text NOT NULL,
	"revision" integer DEFAULT 1 NOT NULL,
	"data" jsonb NOT NULL,
	"created_by" uuid NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"sign_by" timestamp with time zone,
	"subject" text NOT NULL,
	"message" text NOT NULL,
	"executed_sha256" text,
	CONSTRAINT "agreement_number_unique" UNIQUE("number"),
	CONSTRAINT "agreement_row" UNIQUE("run_id","row"),
	CONSTRAINT "agreement_state" CHECK ("agreement"."state" in ('draft', 'in approval', 'returned', 'cleared', 'out', 'executed', 'declined', 'lapsed', 'withdrawn')),
	CONSTRAINT "agreement_revision" CHECK ("agreement"."revision" > 0),
	CONSTRAINT "agreement_executed_file" CHECK ("agreement"."state" <> 'executed' or "agreement"."executed_sha256" is not null),
	CONSTRAINT "agreement_out_sign_by" CHECK ("agreement"."state" <> 'out' or "agreement"."sign_by" is not null)
);
--> statement-breakpoint
CREATE TABLE "agreement_number" (
	"series_id" text NOT NULL,
	"number" integer NOT NULL,
	"run_id" uuid NOT NULL,
	"row" integer NOT NULL,
	CONSTRAINT "agreement_number_series_id_number_pk" PRIMARY KEY("series_id","number"),
	CONSTRAINT "agreement_number_row" UNIQUE("run_id","row")
);
--> statement-breakpoint
CREATE TABLE "blank_value" (
	"party_id" uuid NOT NULL,
	"blank_id" text NOT NULL,
	"value" jsonb NOT NULL,
	"filled_at" timestamp with time zone NOT NULL,
	CONSTRAINT "blank_value_party_id_blank_id_pk" PRIMARY KEY("party_id","blank_id")
);
--> statement-breakpoint
CREATE TABLE "edition" (
	"id" uuid PRIMARY KEY NOT NULL,
	"template_id" uuid NOT NULL,
	"number" integer NOT NULL,
	"content" jsonb NOT NULL,
	"published_at" timestamp with time zone NOT NULL,
	"published_by" uuid NOT NULL,
	CONSTRAINT "edition_number" UNIQUE("template_id","number"),
	CONSTRAINT "edition_positive" CHECK ("edition"."number" > 0)
);
--> statement-breakpoint
CREATE TABLE "file" (
	"sha256" text PRIMARY KEY NOT NULL,
	"size" integer NOT NULL,
	"media_type" text NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	CONSTRAINT "file_sha256" CHECK ("file"."sha256" ~ '^[0-9a-f]{64}$'),
	CONSTRAINT "file_size" CHECK ("file"."size" >= 0)
);
--> statement-breakpoint
CREATE TABLE "mail" (
	"key" text PRIMARY KEY NOT NULL,
	"agreement_id" uuid,
	"to" text NOT NULL,
	"subject" text NOT NULL,
	"body" jsonb,
	"created_at" timestamp with time zone NOT NULL,
	"sent_at" timestamp with time zone,
	"problem" text
);
--> statement-breakpoint
CREATE TABLE "mapping" (
	"sheet_id" uuid NOT NULL,
	"template_id" uuid NOT NULL,
	"columns" jsonb NOT NULL,
	CONSTRAINT "mapping_sheet_id_template_id_pk" PRIMARY KEY("sheet_id","template_id")
);
--> statement-breakpoint
CREATE TABLE "party" (
	"id" uuid PRIMARY KEY NOT NULL,
	"agreement_id" uuid NOT NULL,
	"revision" integer NOT NULL,
	"role" text NOT NULL,
	"label" text NOT NULL,
	"order" integer NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	"title" text NOT NULL,
	"token_hash" text,
	"invited_at" timestamp with time zone,
	"opened_at" timestamp with time zone,
	"consented_at" timestamp with time zone,
	"signed_at" timestamp with time zone,
	"declined_at" timestamp with time zone,
	"address" text,
	CONSTRAINT "party_token_hash_unique" UNIQUE("token_hash"),
	CONSTRAINT "party_role" UNIQUE("agreement_id","revision","role"),
	CONSTRAINT "party_signed_after_consent" CHECK ("party"."signed_at" is null or ("party"."consented_at" is not null and "party"."invited_at" is not null)),
	CONSTRAINT "party_signed_or_declined" CHECK ("party"."signed_at" is null or "party"."declined_at" is null)
);
--> statement-breakpoint
CREATE TABLE "person" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	"post" text NOT NULL,
	"password_hash" text NOT NULL,
	"rights" text[] NOT NULL,
	CONSTRAINT "person_email_unique" UNIQUE("email")
);
--> statement-breakpoint
CREATE TABLE "received_mail" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "received_mail_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"message_id" text NOT NULL,
	"received_at" timestamp with time zone NOT NULL,
	"from" text NOT NULL,
	"to" text NOT NULL,
	"subject" text NOT NULL,
	"text" text NOT NULL,
	"html" text,
	"attachments" jsonb NOT NULL,
	"read" boolean DEFAULT false NOT NULL,
	CONSTRAINT "received_mail_message_id_unique" UNIQUE("message_id")
);
--> statement-breakpoint
CREATE TABLE "revision" (
	"agreement_id" uuid NOT NULL,
	"number" integer NOT NULL,
	"file_sha256" text NOT NULL,
	"pages" integer NOT NULL,
	"blanks" jsonb NOT NULL,
	CONSTRAINT "revision_agreement_id_number_pk" PRIMARY KEY("agreement_id","number"),
	CONSTRAINT "revision_pages" CHECK ("revision"."pages" > 0)
);
--> statement-breakpoint
CREATE TABLE "rule_table" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"rules" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "run" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"edition_id" uuid NOT NULL,
	"sheet_id" uuid NOT NULL,
	"mapping" jsonb NOT NULL,
	"state" text NOT NULL,
	"problem" text,
	"created_at" timestamp with time zone NOT NULL,
	"created_by" uuid NOT NULL,
	"generate_started_at" timestamp with time zone,
	"generate_ended_at" timestamp with time zone,
	CONSTRAINT "run_state" CHECK ("run"."state" in ('checking', 'checked', 'generating', 'paused', 'generated', 'failed'))
);
--> statement-breakpoint
CREATE TABLE "run_row" (
	"run_id" uuid NOT NULL,
	"row" integer NOT NULL,
	"label" text NOT NULL,
	"state" text NOT NULL,
	"data" jsonb NOT NULL,
	"problems" jsonb NOT NULL,
	"wording" text NOT NULL,
	"approvals" jsonb NOT NULL,
	CONSTRAINT "run_row_run_id_row_pk" PRIMARY KEY("run_id","row"),
	CONSTRAINT "run_row_state" CHECK ("run_row"."state" in ('ready', 'needs a hand', 'made', 'failed'))
);
--> statement-breakpoint
CREATE TABLE "series" (
	"id" text PRIMARY KEY NOT NULL,
	"pattern" text NOT NULL,
	"last_number" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "series_last_number" CHECK ("series"."last_number" >= 0)
);
--> statement-breakpoint
CREATE TABLE "session" (
	"token_hash" text PRIMARY KEY NOT NULL,
	"person_id" uuid NOT NULL,
	"expires_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "setting" (
	"name" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sheet" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"file_sha256" text NOT NULL,
	"header_row" integer NOT NULL,
	"columns" jsonb NOT NULL,
	"row_count" integer NOT NULL,
	"uploaded_at" timestamp with time zone NOT NULL,
	"uploaded_by" uuid NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sheet_row" (
	"sheet_id" uuid NOT NULL,
	"row" integer NOT NULL,
	"cells" jsonb NOT NULL,
	CONSTRAINT "sheet_row_sheet_id_row_pk" PRIMARY KEY("sheet_id","row")
);
--> statement-breakpoint
CREATE TABLE "step" (
	"id" uuid PRIMARY KEY NOT NULL,
	"agreement_id" uuid NOT NULL,
	"revision" integer NOT NULL,
	"round" integer NOT NULL,
	"approver" text NOT NULL,
	"reason" text NOT NULL,
	"state" text NOT NULL,
	"since" timestamp with time zone NOT NULL,
	"decided_at" timestamp with time zone,
	"decided_by" uuid,
	"note" text,
	CONSTRAINT "step_approver" UNIQUE("agreement_id","revision","round","approver"),
	CONSTRAINT "step_state" CHECK ("step"."state" in ('waiting', 'approved', 'returned')),
	CONSTRAINT "step_decided" CHECK (("step"."state" = 'waiting') = ("step"."decided_at" is null)),
	CONSTRAINT "step_return_note" CHECK ("step"."state" <> 'returned' or length("step"."note") > 0)
);
--> statement-breakpoint
CREATE TABLE "template" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"series_id" text NOT NULL,
	"draft" jsonb NOT NULL,
	"draft_version" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL,
	CONSTRAINT "template_draft_version" CHECK ("template"."draft_version" > 0)
);
--> statement-breakpoint
CREATE TABLE "trail" (
	"agreement_id" uuid NOT NULL,
	"seq" integer NOT NULL,
	"at" text NOT NULL,
	"actor" text NOT NULL,
	"act" text NOT NULL,
	"detail" jsonb NOT NULL,
	"previous" text NOT NULL,
	"hash" text NOT NULL,
	CONSTRAINT "trail_agreement_id_seq_pk" PRIMARY KEY("agreement_id","seq"),
	CONSTRAINT "trail_seq" CHECK ("trail"."seq" > 0)
);
--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_edition_id_edition_id_fk" FOREIGN KEY ("edition_id") REFERENCES "public"."edition"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_created_by_person_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_executed_sha256_file_sha256_fk" FOREIGN KEY ("executed_sha256") REFERENCES "public"."file"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_run_id_row_run_row_run_id_row_fk" FOREIGN KEY ("run_id","row") REFERENCES "public"."run_row"("run_id","row") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "agreement_number" ADD CONSTRAINT "agreement_number_series_id_series_id_fk" FOREIGN KEY ("series_id") REFERENCES "public"."series"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "agreement_number" ADD CONSTRAINT "agreement_number_run_id_row_run_row_run_id_row_fk" FOREIGN KEY ("run_id","row") REFERENCES "public"."run_row"("run_id","row") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "blank_value" ADD CONSTRAINT "blank_value_party_id_party_id_fk" FOREIGN KEY ("party_id") REFERENCES "public"."party"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edition" ADD CONSTRAINT "edition_template_id_template_id_fk" FOREIGN KEY ("template_id") REFERENCES "public"."template"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edition" ADD CONSTRAINT "edition_published_by_person_id_fk" FOREIGN KEY ("published_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mail" ADD CONSTRAINT "mail_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mapping" ADD CONSTRAINT "mapping_sheet_id_sheet_id_fk" FOREIGN KEY ("sheet_id") REFERENCES "public"."sheet"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mapping" ADD CONSTRAINT "mapping_template_id_template_id_fk" FOREIGN KEY ("template_id") REFERENCES "public"."template"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_agreement_id_revision_revision_agreement_id_number_fk" FOREIGN KEY ("agreement_id","revision") REFERENCES "public"."revision"("agreement_id","number") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "revision" ADD CONSTRAINT "revision_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "revision" ADD CONSTRAINT "revision_file_sha256_file_sha256_fk" FOREIGN KEY ("file_sha256") REFERENCES "public"."file"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run" ADD CONSTRAINT "run_edition_id_edition_id_fk" FOREIGN KEY ("edition_id") REFERENCES "public"."edition"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run" ADD CONSTRAINT "run_sheet_id_sheet_id_fk" FOREIGN KEY ("sheet_id") REFERENCES "public"."sheet"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run" ADD CONSTRAINT "run_created_by_person_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_row" ADD CONSTRAINT "run_row_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "session" ADD CONSTRAINT "session_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sheet" ADD CONSTRAINT "sheet_file_sha256_file_sha256_fk" FOREIGN KEY ("file_sha256") REFERENCES "public"."file"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sheet" ADD CONSTRAINT "sheet_uploaded_by_person_id_fk" FOREIGN KEY ("uploaded_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sheet_row" ADD CONSTRAINT "sheet_row_sheet_id_sheet_id_fk" FOREIGN KEY ("sheet_id") REFERENCES "public"."sheet"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "step" ADD CONSTRAINT "step_decided_by_person_id_fk" FOREIGN KEY ("decided_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "step" ADD CONSTRAINT "step_agreement_id_revision_revision_agreement_id_number_fk" FOREIGN KEY ("agreement_id","revision") REFERENCES "public"."revision"("agreement_id","number") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "template" ADD CONSTRAINT "template_series_id_series_id_fk" FOREIGN KEY ("series_id") REFERENCES "public"."series"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "template" ADD CONSTRAINT "template_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trail" ADD CONSTRAINT "trail_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "agreement_by_state" ON "agreement" USING btree ("state","changed_at");--> statement-breakpoint
CREATE INDEX "mail_by_agreement" ON "mail" USING btree ("agreement_id");--> statement-breakpoint
CREATE INDEX "received_mail_by_time" ON "received_mail" USING btree ("received_at");--> statement-breakpoint
CREATE INDEX "run_row_by_state" ON "run_row" USING btree ("run_id","state");--> statement-breakpoint
CREATE INDEX "step_waiting" ON "step" USING btree ("approver") WHERE "step"."state" = 'waiting';