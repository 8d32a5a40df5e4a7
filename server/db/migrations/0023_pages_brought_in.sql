CREATE TABLE "page_file" (
	"sha256" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"pages" integer NOT NULL,
	"fields" jsonb NOT NULL,
	"fingerprint" jsonb NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"by" uuid NOT NULL,
	CONSTRAINT "page_file_pages" CHECK ("page_file"."pages" > 0)
);
--> statement-breakpoint
CREATE TABLE "page_read" (
	"sha256" text NOT NULL,
	"page" integer NOT NULL,
	"read" jsonb NOT NULL,
	CONSTRAINT "page_read_sha256_page_pk" PRIMARY KEY("sha256","page")
);
--> statement-breakpoint
ALTER TABLE "page_file" ADD CONSTRAINT "page_file_sha256_file_sha256_fk" FOREIGN KEY ("sha256") REFERENCES "public"."file"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "page_file" ADD CONSTRAINT "page_file_by_person_id_fk" FOREIGN KEY ("by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "page_read" ADD CONSTRAINT "page_read_sha256_page_file_sha256_fk" FOREIGN KEY ("sha256") REFERENCES "public"."page_file"("sha256") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "page_file_by_time" ON "page_file" USING btree ("at");