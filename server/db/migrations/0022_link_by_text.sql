ALTER TABLE "party" ADD COLUMN "link_by" text DEFAULT 'mail' NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_link_by" CHECK ("party"."link_by" in ('mail', 'text'));