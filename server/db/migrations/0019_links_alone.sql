ALTER TABLE "party" DROP CONSTRAINT "party_token_hash_unique";--> statement-breakpoint
ALTER TABLE "party" DROP COLUMN "token_hash";