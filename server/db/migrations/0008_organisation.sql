CREATE TABLE "founding_code" (
	"only" boolean PRIMARY KEY DEFAULT true NOT NULL,
	"code_hash" text NOT NULL,
	CONSTRAINT "founding_code_only" CHECK ("founding_code"."only")
);
--> statement-breakpoint
CREATE TABLE "organisation" (
	"only" boolean PRIMARY KEY DEFAULT true NOT NULL,
	"name" text NOT NULL,
	"address" text NOT NULL,
	"place" text NOT NULL,
	"language" text NOT NULL,
	"time_zone" text NOT NULL,
	"sender" text NOT NULL,
	"synonyms" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "organisation_only" CHECK ("organisation"."only")
);
--> statement-breakpoint
CREATE TABLE "seal_key" (
	"only" boolean PRIMARY KEY DEFAULT true NOT NULL,
	"p12" "bytea" NOT NULL,
	"passphrase" text NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	CONSTRAINT "seal_key_only" CHECK ("seal_key"."only")
);
--> statement-breakpoint
-- An installation that people work in already goes on under a name to be changed on the settings page.
INSERT INTO "organisation" ("name", "address", "place", "language", "time_zone", "sender")
SELECT 'Organisation', '', '', 'en-US', 'UTC', 'desk@localhost.localdomain' WHERE EXISTS (SELECT FROM "person");
--> statement-breakpoint
UPDATE "person" SET "rights" = array_append("rights", 'settings') WHERE 'rules' = ANY("rights");
