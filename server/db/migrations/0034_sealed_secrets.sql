ALTER TABLE "open_link" DROP CONSTRAINT "open_link_token_unique";--> statement-breakpoint
ALTER TABLE "open_link" ADD COLUMN "token_hash" text;--> statement-breakpoint
UPDATE "open_link" SET "token_hash" = encode(sha256(convert_to("token", 'UTF8')), 'hex');--> statement-breakpoint
ALTER TABLE "open_link" ALTER COLUMN "token_hash" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "open_link" ADD CONSTRAINT "open_link_token_hash_unique" UNIQUE("token_hash");