CREATE TABLE "aftermath" (
	"of" uuid PRIMARY KEY NOT NULL,
	"steps" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	"changed_by" uuid NOT NULL
);
--> statement-breakpoint
CREATE TABLE "aftermath_step" (
	"id" uuid PRIMARY KEY NOT NULL,
	"agreement_id" uuid NOT NULL,
	"step" jsonb NOT NULL,
	"step_id" text NOT NULL,
	"place" integer NOT NULL,
	"state" text NOT NULL,
	"due_at" timestamp with time zone NOT NULL,
	"tries" integer DEFAULT 0 NOT NULL,
	"said" text DEFAULT '' NOT NULL,
	"made_id" uuid,
	"at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone,
	"held_until" timestamp with time zone,
	CONSTRAINT "aftermath_step_once" UNIQUE("agreement_id","step_id"),
	CONSTRAINT "aftermath_step_state" CHECK ("aftermath_step"."state" in ('waiting', 'done', 'skipped', 'failed'))
);
--> statement-breakpoint
CREATE TABLE "folder" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"address" text NOT NULL,
	"user_name" text DEFAULT '' NOT NULL,
	"secret" text DEFAULT '' NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"created_by" uuid NOT NULL,
	"ended_at" timestamp with time zone,
	CONSTRAINT "folder_kind" CHECK ("folder"."kind" in ('local', 'webdav'))
);
--> statement-breakpoint
CREATE TABLE "follow_up" (
	"id" uuid PRIMARY KEY NOT NULL,
	"agreement_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"text" text NOT NULL,
	"due_on" date NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"done_at" timestamp with time zone,
	"done_by" uuid
);
--> statement-breakpoint
ALTER TABLE "aftermath" ADD CONSTRAINT "aftermath_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "aftermath_step" ADD CONSTRAINT "aftermath_step_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "folder" ADD CONSTRAINT "folder_created_by_person_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_up" ADD CONSTRAINT "follow_up_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_up" ADD CONSTRAINT "follow_up_person_id_person_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_up" ADD CONSTRAINT "follow_up_done_by_person_id_fk" FOREIGN KEY ("done_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "aftermath_step_due" ON "aftermath_step" USING btree ("due_at") WHERE "aftermath_step"."state" = 'waiting';--> statement-breakpoint
CREATE INDEX "follow_up_open" ON "follow_up" USING btree ("person_id","due_on") WHERE "follow_up"."done_at" is null;