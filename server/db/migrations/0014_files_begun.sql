CREATE TABLE "file_begun" (
	"sha256" text PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE INDEX "file_begun_by_time" ON "file_begun" USING btree ("at");