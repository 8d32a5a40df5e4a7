CREATE TABLE "webhook" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"url" text NOT NULL,
	"acts" text[] NOT NULL,
	"secret" text NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"created_by" uuid NOT NULL,
	"ended_at" timestamp with time zone,
	"ended_because" text,
	"silent_since" timestamp with time zone,
	"failures" integer DEFAULT 0 NOT NULL,
	"tried_again_at" timestamp with time zone,
	"held_until" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "webhook_delivery" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"webhook_id" uuid NOT NULL,
	"agreement_id" uuid NOT NULL,
	"seq" integer NOT NULL,
	"state" text NOT NULL,
	"tries" integer DEFAULT 0 NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"due_at" timestamp with time zone NOT NULL,
	"status" integer,
	"said" text DEFAULT '' NOT NULL,
	"ended_at" timestamp with time zone,
	CONSTRAINT "webhook_delivery_act" UNIQUE("webhook_id","agreement_id","seq"),
	CONSTRAINT "webhook_delivery_state" CHECK ("webhook_delivery"."state" in ('waiting', 'told', 'given up'))
);
--> statement-breakpoint
ALTER TABLE "webhook" ADD CONSTRAINT "webhook_created_by_person_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "webhook_delivery" ADD CONSTRAINT "webhook_delivery_webhook_id_webhook_id_fk" FOREIGN KEY ("webhook_id") REFERENCES "public"."webhook"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "webhook_delivery_waiting" ON "webhook_delivery" USING btree ("webhook_id","agreement_id","seq") WHERE "webhook_delivery"."state" = 'waiting';