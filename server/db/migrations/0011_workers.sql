CREATE TABLE "worker" (
	"id" integer PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "worker_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 2147483647 START WITH 1 CACHE 1),
	"started_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "worker_job" (
	"job" uuid PRIMARY KEY NOT NULL,
	"worker" integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX "worker_job_by_worker" ON "worker_job" USING btree ("worker");