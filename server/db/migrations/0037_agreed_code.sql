ALTER TABLE "party" DROP CONSTRAINT "party_access_code";--> statement-breakpoint
ALTER TABLE "party" DROP CONSTRAINT "party_check";--> statement-breakpoint
UPDATE "party" SET "check" = 'agreed code' WHERE "check" = 'access code';--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_agreed_code" CHECK (("party"."code_hash" is not null) = ("party"."check" = 'agreed code'));--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_check" CHECK ("party"."check" in ('link', 'mail code', 'text code', 'agreed code'));