CREATE TABLE "connected_record" (
	"connection_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"their_id" text NOT NULL,
	"record_id" uuid,
	"theirs" jsonb NOT NULL,
	"our_version" integer NOT NULL,
	"conflict" jsonb,
	"problems" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"seen_at" timestamp with time zone NOT NULL,
	"owner" text,
	"waits" boolean DEFAULT false NOT NULL,
	CONSTRAINT "connected_record_connection_id_kind_their_id_pk" PRIMARY KEY("connection_id","kind","their_id")
);
--> statement-breakpoint
CREATE TABLE "connection" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"address" text NOT NULL,
	"description" text NOT NULL,
	"auth" jsonb NOT NULL,
	"kinds" jsonb NOT NULL,
	"drift" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"every_minutes" integer,
	"hook_secret" text NOT NULL,
	"owner_id" uuid NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"pulled_at" timestamp with time zone,
	"problem" text,
	"failures" integer DEFAULT 0 NOT NULL,
	"due_at" timestamp with time zone,
	"held_until" timestamp with time zone,
	"made" integer DEFAULT 0 NOT NULL,
	"changed" integer DEFAULT 0 NOT NULL,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "connected_record" ADD CONSTRAINT "connected_record_connection_id_connection_id_fk" FOREIGN KEY ("connection_id") REFERENCES "public"."connection"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "connected_record" ADD CONSTRAINT "connected_record_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "connection" ADD CONSTRAINT "connection_owner_id_person_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "connected_record_ours" ON "connected_record" USING btree ("record_id");