ALTER TABLE "rule_table" DROP COLUMN "name";--> statement-breakpoint
ALTER TABLE "rule_table" DROP COLUMN "rules";--> statement-breakpoint
ALTER TABLE "rule_table" DROP COLUMN "version";