CREATE TABLE "record" (
	"id" uuid PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"data" jsonb NOT NULL,
	"customer_id" uuid,
	"version" integer DEFAULT 1 NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL,
	"archived_at" timestamp with time zone,
	CONSTRAINT "record_kind" CHECK ("record"."kind" in ('customer', 'contact', 'deal', 'price'))
);
--> statement-breakpoint
CREATE TABLE "record_field" (
	"id" uuid PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"field" jsonb NOT NULL,
	"position" integer NOT NULL,
	CONSTRAINT "record_field_name" UNIQUE("kind","name"),
	CONSTRAINT "record_field_kind" CHECK ("record_field"."kind" in ('customer', 'contact', 'deal', 'price'))
);
--> statement-breakpoint
CREATE TABLE "record_import" (
	"id" uuid PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"sheet_name" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"by" uuid NOT NULL,
	"made" integer NOT NULL,
	"changed" integer NOT NULL,
	"undone_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "record_import_change" (
	"import_id" uuid NOT NULL,
	"record_id" uuid NOT NULL,
	"before" jsonb,
	"version" integer NOT NULL,
	CONSTRAINT "record_import_change_import_id_record_id_pk" PRIMARY KEY("import_id","record_id")
);
--> statement-breakpoint
CREATE TABLE "record_view" (
	"id" uuid PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"filter" jsonb NOT NULL,
	"made_by" uuid NOT NULL,
	CONSTRAINT "record_view_name" UNIQUE("kind","name")
);
--> statement-breakpoint
CREATE TABLE "mapping_memory" (
	"template_id" uuid NOT NULL,
	"shape" text NOT NULL,
	"column_names" text[] NOT NULL,
	"columns" jsonb NOT NULL,
	"used_at" timestamp with time zone NOT NULL,
	CONSTRAINT "mapping_memory_template_id_shape_pk" PRIMARY KEY("template_id","shape")
);
--> statement-breakpoint
CREATE TABLE "packet" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"templates" uuid[] NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL,
	CONSTRAINT "packet_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "run_file" (
	"run_id" uuid NOT NULL,
	"name" text NOT NULL,
	"sha256" text NOT NULL,
	CONSTRAINT "run_file_run_id_name_pk" PRIMARY KEY("run_id","name")
);
--> statement-breakpoint
CREATE TABLE "run_output" (
	"id" uuid PRIMARY KEY NOT NULL,
	"run_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"state" text NOT NULL,
	"done" integer DEFAULT 0 NOT NULL,
	"total" integer DEFAULT 0 NOT NULL,
	"name" text NOT NULL,
	"file_sha256" text,
	"problem" text,
	"created_at" timestamp with time zone NOT NULL,
	"created_by" uuid NOT NULL,
	"token_hash" text,
	"expires_at" timestamp with time zone,
	CONSTRAINT "run_output_token_hash_unique" UNIQUE("token_hash"),
	CONSTRAINT "run_output_kind" CHECK ("run_output"."kind" in ('archive of PDFs', 'archive of DOCX', 'one PDF', 'trial', 'result sheet', 'result sheet as CSV')),
	CONSTRAINT "run_output_state" CHECK ("run_output"."state" in ('making', 'ready', 'failed')),
	CONSTRAINT "run_output_file" CHECK ("run_output"."state" <> 'ready' or "run_output"."file_sha256" is not null)
);
--> statement-breakpoint
CREATE TABLE "wording_read" (
	"run_id" uuid NOT NULL,
	"wording" text NOT NULL,
	"read_by" uuid NOT NULL,
	"read_at" timestamp with time zone NOT NULL,
	CONSTRAINT "wording_read_run_id_wording_pk" PRIMARY KEY("run_id","wording")
);
--> statement-breakpoint
ALTER TABLE "run" DROP CONSTRAINT "run_state";--> statement-breakpoint
ALTER TABLE "run_row" DROP CONSTRAINT "run_row_state";--> statement-breakpoint
ALTER TABLE "sheet" ALTER COLUMN "file_sha256" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "wording" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "content" jsonb;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "language" text;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "copies" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "extra" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "record_id" uuid;--> statement-breakpoint
ALTER TABLE "revision" ADD COLUMN "parts" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "packet_editions" uuid[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "setup" jsonb DEFAULT '{"rule":null,"groupBy":[],"values":{},"askRows":[],"sameBy":null,"duplicates":"ask","languageColumn":null,"copiesColumn":null,"fileColumn":null,"fileName":null}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "run" ALTER COLUMN "setup" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "checked_version" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "drift" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "source_rows" integer[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
UPDATE "run_row" SET "source_rows" = ARRAY["row"];--> statement-breakpoint
ALTER TABLE "run_row" ALTER COLUMN "source_rows" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "people" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "answers" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "decision" text;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "changed" jsonb;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "language" text;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "copies" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "extra" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "pages" integer;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "overflow" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "run_row" ADD COLUMN "record_id" uuid;--> statement-breakpoint
ALTER TABLE "sheet" ADD COLUMN "kind" text DEFAULT 'text' NOT NULL;--> statement-breakpoint
ALTER TABLE "sheet" ADD COLUMN "reading" jsonb;--> statement-breakpoint
ALTER TABLE "sheet" ADD COLUMN "tables" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "sheet" ADD COLUMN "names" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "sheet" ADD COLUMN "notes" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "sheet" ADD COLUMN "said" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "sheet_row" ADD COLUMN "aside" text;--> statement-breakpoint
ALTER TABLE "sheet_row" ADD COLUMN "mended" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "sheet_row" ADD COLUMN "record_id" uuid;--> statement-breakpoint
ALTER TABLE "record" ADD CONSTRAINT "record_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_import" ADD CONSTRAINT "record_import_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_import_change" ADD CONSTRAINT "record_import_change_import_id_record_import_id_fk" FOREIGN KEY ("import_id") REFERENCES "public"."record_import"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_view" ADD CONSTRAINT "record_view_made_by_person_id_fk" FOREIGN KEY ("made_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mapping_memory" ADD CONSTRAINT "mapping_memory_template_id_template_id_fk" FOREIGN KEY ("template_id") REFERENCES "public"."template"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "packet" ADD CONSTRAINT "packet_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_file" ADD CONSTRAINT "run_file_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_file" ADD CONSTRAINT "run_file_sha256_file_sha256_fk" FOREIGN KEY ("sha256") REFERENCES "public"."file"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_output" ADD CONSTRAINT "run_output_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_output" ADD CONSTRAINT "run_output_file_sha256_file_sha256_fk" FOREIGN KEY ("file_sha256") REFERENCES "public"."file"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_output" ADD CONSTRAINT "run_output_created_by_person_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "wording_read" ADD CONSTRAINT "wording_read_run_id_run_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."run"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "wording_read" ADD CONSTRAINT "wording_read_read_by_person_id_fk" FOREIGN KEY ("read_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "record_by_kind" ON "record" USING btree ("kind","name");--> statement-breakpoint
CREATE INDEX "record_by_customer" ON "record" USING btree ("customer_id");--> statement-breakpoint
CREATE INDEX "run_output_by_run" ON "run_output" USING btree ("run_id");--> statement-breakpoint
CREATE INDEX "agreement_by_record" ON "agreement" USING btree ("record_id");--> statement-breakpoint
CREATE INDEX "agreement_by_edition" ON "agreement" USING btree ("edition_id");--> statement-breakpoint
CREATE INDEX "run_by_sheet" ON "run" USING btree ("sheet_id");--> statement-breakpoint
ALTER TABLE "run" ADD CONSTRAINT "run_state" CHECK ("run"."state" in ('checking', 'checked', 'generating', 'paused', 'cancelled', 'generated', 'failed'));--> statement-breakpoint
ALTER TABLE "run_row" ADD CONSTRAINT "run_row_state" CHECK ("run_row"."state" in ('ready', 'needs a hand', 'skipped', 'made', 'failed'));--> statement-breakpoint
UPDATE "sheet" SET "columns" = (SELECT coalesce(jsonb_agg(c || '{"unsure":[],"said":{}}'::jsonb), '[]'::jsonb) FROM jsonb_array_elements("columns") c);
