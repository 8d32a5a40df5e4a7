CREATE TABLE "absence" (
	"id" uuid PRIMARY KEY NOT NULL,
	"person_id" uuid NOT NULL,
	"from_day" text NOT NULL,
	"to_day" text NOT NULL,
	"stand_in_id" uuid,
	CONSTRAINT "absence_days" CHECK ("absence"."from_day" <= "absence"."to_day"),
	CONSTRAINT "absence_other" CHECK ("absence"."stand_in_id" is null or "absence"."stand_in_id" <> "absence"."person_id")
);
--> statement-breakpoint
CREATE TABLE "rule_case" (
	"id" uuid PRIMARY KEY NOT NULL,
	"table_id" uuid NOT NULL,
	"name" text NOT NULL,
	"values" jsonb NOT NULL,
	"expected" jsonb NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL,
	CONSTRAINT "rule_case_name" UNIQUE("table_id","name")
);
--> statement-breakpoint
CREATE TABLE "rule_edition" (
	"table_id" uuid NOT NULL,
	"number" integer NOT NULL,
	"content" jsonb NOT NULL,
	"published_at" timestamp with time zone NOT NULL,
	"published_by" uuid NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	CONSTRAINT "rule_edition_table_id_number_pk" PRIMARY KEY("table_id","number"),
	CONSTRAINT "rule_edition_positive" CHECK ("rule_edition"."number" > 0)
);
--> statement-breakpoint
CREATE TABLE "wording_opened" (
	"person_id" uuid NOT NULL,
	"edition_id" uuid NOT NULL,
	"wording" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "wording_opened_person_id_edition_id_wording_pk" PRIMARY KEY("person_id","edition_id","wording")
);
--> statement-breakpoint
CREATE TABLE "question" (
	"id" uuid PRIMARY KEY NOT NULL,
	"agreement_id" uuid NOT NULL,
	"step_id" uuid NOT NULL,
	"asked_by" uuid NOT NULL,
	"asked_at" timestamp with time zone NOT NULL,
	"text" text NOT NULL,
	"answered_by" uuid,
	"answered_at" timestamp with time zone,
	"answer" text,
	CONSTRAINT "question_answered" CHECK (("question"."answer" is null) = ("question"."answered_at" is null))
);
--> statement-breakpoint
ALTER TABLE "step" DROP CONSTRAINT "step_state";--> statement-breakpoint
ALTER TABLE "step" DROP CONSTRAINT "step_decided";--> statement-breakpoint
DROP INDEX "step_waiting";--> statement-breakpoint
ALTER TABLE "person" ADD COLUMN "left_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "person" ADD COLUMN "approval_mail" text DEFAULT 'each' NOT NULL;--> statement-breakpoint
ALTER TABLE "team" ADD COLUMN "lead_id" uuid;--> statement-breakpoint
ALTER TABLE "record" ADD COLUMN "owner_id" uuid;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "sign_days" integer;--> statement-breakpoint
ALTER TABLE "rule_table" ADD COLUMN "draft" jsonb;--> statement-breakpoint
ALTER TABLE "rule_table" ADD COLUMN "draft_version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "rule_table" ADD COLUMN "in_force" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "rule_table" ADD COLUMN "changed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "rule_table" ADD COLUMN "changed_by" uuid;--> statement-breakpoint
-- Each former rule is a column of its own, with one row that asks for it: the same approvals as before.
UPDATE "rule_table" SET
  "changed_at" = now(),
  "changed_by" = (SELECT id FROM "person" ORDER BY ('rules' = ANY(rights)) DESC, name LIMIT 1),
  "in_force" = jsonb_array_length(rules) > 0,
  "draft" = jsonb_build_object(
    'name', name, 'scope', jsonb_build_object('kind', 'all'), 'hitPolicy', 'collect', 'missing', 'ask', 'otherwise', 'nothing',
    'inputs', coalesce((SELECT jsonb_agg(jsonb_build_object('id', r->>'id', 'label', '', 'expression',
      regexp_replace(r->>'condition', '\mchanged_by_hand\M', 'agreement.changed_by_hand', 'g'))) FROM jsonb_array_elements(rules) AS r), '[]'),
    'outputs', '[{"key": "approver"}]'::jsonb,
    'rows', coalesce((SELECT jsonb_agg(jsonb_build_object('id', r->>'id', 'when', jsonb_build_object(r->>'id', 'true'),
      'then', jsonb_build_object('approver', r->>'approver'), 'note', '')) FROM jsonb_array_elements(rules) AS r), '[]'),
    'priorities', '[]'::jsonb, 'escalateTo', '');--> statement-breakpoint
INSERT INTO "rule_edition" ("table_id", "number", "content", "published_at", "published_by", "note")
SELECT id, 1, draft, changed_at, changed_by, '' FROM "rule_table" WHERE in_force;--> statement-breakpoint
ALTER TABLE "rule_table" ALTER COLUMN "draft" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "rule_table" ALTER COLUMN "changed_at" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "rule_table" ALTER COLUMN "changed_by" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "who" jsonb;--> statement-breakpoint
UPDATE "step" SET "who" = jsonb_build_array(jsonb_build_object('kind', 'post', 'post', approver));--> statement-breakpoint
ALTER TABLE "step" ALTER COLUMN "who" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "step_order" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "reasons" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "basis" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "days" integer;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "escalate_to" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "escalated_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "due_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "reminded_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "handed_to" uuid;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "decided_for" text;--> statement-breakpoint
ALTER TABLE "step" ADD COLUMN "kept_from" uuid;--> statement-breakpoint
ALTER TABLE "absence" ADD CONSTRAINT "absence_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "absence" ADD CONSTRAINT "absence_stand_in_id_person_id_fk" FOREIGN KEY ("stand_in_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rule_case" ADD CONSTRAINT "rule_case_table_id_rule_table_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."rule_table"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rule_case" ADD CONSTRAINT "rule_case_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rule_edition" ADD CONSTRAINT "rule_edition_table_id_rule_table_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."rule_table"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rule_edition" ADD CONSTRAINT "rule_edition_published_by_person_id_fk" FOREIGN KEY ("published_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "wording_opened" ADD CONSTRAINT "wording_opened_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "question" ADD CONSTRAINT "question_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "question" ADD CONSTRAINT "question_step_id_step_id_fk" FOREIGN KEY ("step_id") REFERENCES "public"."step"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "question" ADD CONSTRAINT "question_asked_by_person_id_fk" FOREIGN KEY ("asked_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "question" ADD CONSTRAINT "question_answered_by_person_id_fk" FOREIGN KEY ("answered_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "absence_of_person" ON "absence" USING btree ("person_id");--> statement-breakpoint
CREATE INDEX "question_of_agreement" ON "question" USING btree ("agreement_id");--> statement-breakpoint
ALTER TABLE "team" ADD CONSTRAINT "team_lead_id_person_id_fk" FOREIGN KEY ("lead_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record" ADD CONSTRAINT "record_owner_id_person_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rule_table" ADD CONSTRAINT "rule_table_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "step" ADD CONSTRAINT "step_handed_to_person_id_fk" FOREIGN KEY ("handed_to") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "step_waiting" ON "step" USING btree ("due_at") WHERE "step"."state" = 'waiting';--> statement-breakpoint
ALTER TABLE "rule_table" ADD CONSTRAINT "rule_table_draft_version" CHECK ("rule_table"."draft_version" > 0);--> statement-breakpoint
ALTER TABLE "step" ADD CONSTRAINT "step_state" CHECK ("step"."state" in ('to come', 'waiting', 'approved', 'returned', 'fallen'));--> statement-breakpoint
ALTER TABLE "step" ADD CONSTRAINT "step_decided" CHECK (("step"."state" in ('approved', 'returned')) = ("step"."decided_at" is not null));