ALTER TABLE "organisation" ADD COLUMN "city" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "organisation" ADD COLUMN "post_code" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "organisation" ADD COLUMN "tax_number" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "organisation" ADD COLUMN "tax_scheme" text DEFAULT 'VAT' NOT NULL;--> statement-breakpoint
ALTER TABLE "organisation" ADD CONSTRAINT "organisation_tax_scheme" CHECK ("organisation"."tax_scheme" in ('VAT', 'GST', 'STT', 'LOC', 'OTH'));