CREATE TABLE "handed_file" (
	"party_id" uuid NOT NULL,
	"sha256" text NOT NULL,
	"name" text NOT NULL,
	"size" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "handed_file_party_id_sha256_pk" PRIMARY KEY("party_id","sha256")
);
--> statement-breakpoint
CREATE TABLE "installation_trail" (
	"seq" integer PRIMARY KEY NOT NULL,
	"at" text NOT NULL,
	"actor" text NOT NULL,
	"act" text NOT NULL,
	"detail" jsonb NOT NULL,
	"previous" text NOT NULL,
	"hash" text NOT NULL,
	CONSTRAINT "installation_trail_seq" CHECK ("installation_trail"."seq" > 0)
);
--> statement-breakpoint
CREATE TABLE "rate_limit" (
	"key" text PRIMARY KEY NOT NULL,
	"points" integer DEFAULT 0 NOT NULL,
	"expire" bigint
);
--> statement-breakpoint
CREATE TABLE "trail_anchor" (
	"day" date NOT NULL,
	"agreement_id" uuid NOT NULL,
	"length" integer NOT NULL,
	"head" text NOT NULL,
	CONSTRAINT "trail_anchor_day_agreement_id_pk" PRIMARY KEY("day","agreement_id")
);
--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "shaped_by" uuid[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "trail_length" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "trail_head" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "shaped_by" uuid[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "run" ADD COLUMN "generated_by" uuid;--> statement-breakpoint
ALTER TABLE "handed_file" ADD CONSTRAINT "handed_file_party_id_party_id_fk" FOREIGN KEY ("party_id") REFERENCES "public"."party"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "handed_file" ADD CONSTRAINT "handed_file_sha256_file_sha256_fk" FOREIGN KEY ("sha256") REFERENCES "public"."file"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trail_anchor" ADD CONSTRAINT "trail_anchor_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run" ADD CONSTRAINT "run_generated_by_person_id_fk" FOREIGN KEY ("generated_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
UPDATE "agreement" SET "shaped_by" = ARRAY["created_by"], "trail_length" = last.seq, "trail_head" = last.hash
FROM (SELECT DISTINCT ON (agreement_id) agreement_id, seq, hash FROM "trail" ORDER BY agreement_id, seq DESC) AS last
WHERE last.agreement_id = "agreement"."id";--> statement-breakpoint
UPDATE "run" SET "shaped_by" = ARRAY["created_by"];--> statement-breakpoint
CREATE TRIGGER installation_trail_append_only BEFORE UPDATE OR DELETE ON "installation_trail" FOR EACH ROW EXECUTE FUNCTION refuse_change();--> statement-breakpoint
CREATE TRIGGER installation_trail_no_truncate BEFORE TRUNCATE ON "installation_trail" FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();--> statement-breakpoint
CREATE TRIGGER trail_anchor_append_only BEFORE UPDATE OR DELETE ON "trail_anchor" FOR EACH ROW EXECUTE FUNCTION refuse_change();--> statement-breakpoint
CREATE TRIGGER trail_anchor_no_truncate BEFORE TRUNCATE ON "trail_anchor" FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
