ALTER TABLE "one_off" ADD COLUMN "created_by" uuid;--> statement-breakpoint
UPDATE "one_off" SET "created_by" = "changed_by";--> statement-breakpoint
ALTER TABLE "one_off" ALTER COLUMN "created_by" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "aftermath_step" ADD COLUMN "by_id" uuid;--> statement-breakpoint
ALTER TABLE "one_off" ADD CONSTRAINT "one_off_created_by_person_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "aftermath_step" ADD CONSTRAINT "aftermath_step_by_id_person_id_fk" FOREIGN KEY ("by_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;