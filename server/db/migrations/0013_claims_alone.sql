ALTER TABLE "agreement_number" DISABLE ROW LEVEL SECURITY;--> statement-breakpoint
DROP TABLE "agreement_number" CASCADE;--> statement-breakpoint
ALTER TABLE "agreement" DROP CONSTRAINT "agreement_row";--> statement-breakpoint
ALTER TABLE "agreement" DROP CONSTRAINT "agreement_run_id_row_run_row_run_id_row_fk";
--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_id_claim_id_fk" FOREIGN KEY ("id") REFERENCES "public"."claim"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "agreement" DROP COLUMN "run_id";--> statement-breakpoint
ALTER TABLE "agreement" DROP COLUMN "row";