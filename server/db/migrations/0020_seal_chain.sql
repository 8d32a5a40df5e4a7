ALTER TABLE "seal_key" ADD COLUMN "root_p12" "bytea";--> statement-breakpoint
ALTER TABLE "seal_key" ADD COLUMN "root_passphrase" text;--> statement-breakpoint
ALTER TABLE "seal_key" ADD COLUMN "time_p12" "bytea";--> statement-breakpoint
ALTER TABLE "seal_key" ADD COLUMN "time_passphrase" text;