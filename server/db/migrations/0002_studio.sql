CREATE TABLE "library_clause" (
	"id" uuid PRIMARY KEY NOT NULL,
	"title" text NOT NULL,
	"tags" text[] NOT NULL
);
--> statement-breakpoint
CREATE TABLE "library_edition" (
	"clause_id" uuid NOT NULL,
	"number" integer NOT NULL,
	"content" jsonb NOT NULL,
	"published_at" timestamp with time zone NOT NULL,
	"published_by" uuid NOT NULL,
	CONSTRAINT "library_edition_clause_id_number_pk" PRIMARY KEY("clause_id","number"),
	CONSTRAINT "library_edition_positive" CHECK ("library_edition"."number" > 0)
);
--> statement-breakpoint
CREATE TABLE "look" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"look" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL,
	CONSTRAINT "look_name_unique" UNIQUE("name"),
	CONSTRAINT "look_version" CHECK ("look"."version" > 0)
);
--> statement-breakpoint
CREATE TABLE "saved_case" (
	"id" uuid PRIMARY KEY NOT NULL,
	"template_id" uuid NOT NULL,
	"name" text NOT NULL,
	"data" jsonb NOT NULL,
	"expected" jsonb NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL,
	CONSTRAINT "saved_case_name" UNIQUE("template_id","name")
);
--> statement-breakpoint
CREATE TABLE "shelf" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	CONSTRAINT "shelf_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "shelf_right" (
	"shelf_id" uuid NOT NULL,
	"team_id" uuid NOT NULL,
	"may_use" boolean NOT NULL,
	"may_edit" boolean NOT NULL,
	"may_publish" boolean NOT NULL,
	CONSTRAINT "shelf_right_shelf_id_team_id_pk" PRIMARY KEY("shelf_id","team_id")
);
--> statement-breakpoint
CREATE TABLE "team" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	CONSTRAINT "team_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "team_member" (
	"team_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	CONSTRAINT "team_member_team_id_person_id_pk" PRIMARY KEY("team_id","person_id")
);
--> statement-breakpoint
ALTER TABLE "edition" ADD COLUMN "note" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "edition" ADD COLUMN "cases" jsonb DEFAULT '{"passed":0,"failed":[]}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "template" ADD COLUMN "shelf_id" uuid;--> statement-breakpoint
ALTER TABLE "template" ADD COLUMN "import_report" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "library_edition" ADD CONSTRAINT "library_edition_clause_id_library_clause_id_fk" FOREIGN KEY ("clause_id") REFERENCES "public"."library_clause"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "library_edition" ADD CONSTRAINT "library_edition_published_by_person_id_fk" FOREIGN KEY ("published_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "look" ADD CONSTRAINT "look_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_case" ADD CONSTRAINT "saved_case_template_id_template_id_fk" FOREIGN KEY ("template_id") REFERENCES "public"."template"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_case" ADD CONSTRAINT "saved_case_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "shelf_right" ADD CONSTRAINT "shelf_right_shelf_id_shelf_id_fk" FOREIGN KEY ("shelf_id") REFERENCES "public"."shelf"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "shelf_right" ADD CONSTRAINT "shelf_right_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "team_member" ADD CONSTRAINT "team_member_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "team_member" ADD CONSTRAINT "team_member_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "saved_case_template" ON "saved_case" USING btree ("template_id");--> statement-breakpoint
ALTER TABLE "template" ADD CONSTRAINT "template_shelf_id_shelf_id_fk" FOREIGN KEY ("shelf_id") REFERENCES "public"."shelf"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE TRIGGER library_edition_append_only BEFORE UPDATE OR DELETE ON "library_edition" FOR EACH ROW EXECUTE FUNCTION refuse_change();
--> statement-breakpoint
CREATE TRIGGER library_edition_no_truncate BEFORE TRUNCATE ON "library_edition" FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
