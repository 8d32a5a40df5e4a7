CREATE TABLE "link" (
	"token_hash" text PRIMARY KEY NOT NULL,
	"party_id" uuid NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	"at_device_of" text,
	"ended_at" timestamp with time zone,
	"ended" text,
	CONSTRAINT "link_end" CHECK ("link"."ended" in ('handed over', 'replaced', 'address corrected', 'expired')),
	CONSTRAINT "link_ended" CHECK (("link"."ended" is null) = ("link"."ended_at" is null))
);
--> statement-breakpoint
CREATE TABLE "party_question" (
	"id" uuid PRIMARY KEY NOT NULL,
	"agreement_id" uuid NOT NULL,
	"party_id" uuid NOT NULL,
	"passage" text DEFAULT '' NOT NULL,
	"text" text NOT NULL,
	"asked_at" timestamp with time zone NOT NULL,
	"answer" text,
	"answered_by" uuid,
	"answered_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "sent_code" (
	"id" uuid PRIMARY KEY NOT NULL,
	"party_id" uuid NOT NULL,
	"hash" text NOT NULL,
	"sent_at" timestamp with time zone NOT NULL,
	"used_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "shown_proof" (
	"token_hash" text PRIMARY KEY NOT NULL,
	"party_id" uuid NOT NULL,
	"check" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"expires_at" timestamp with time zone NOT NULL,
	"address" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "received_text" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "received_text_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"reference" text NOT NULL,
	"received_at" timestamp with time zone NOT NULL,
	"to" text NOT NULL,
	"text" text NOT NULL,
	CONSTRAINT "received_text_reference_unique" UNIQUE("reference")
);
--> statement-breakpoint
CREATE TABLE "text_message" (
	"key" text PRIMARY KEY NOT NULL,
	"agreement_id" uuid,
	"to" text NOT NULL,
	"text" text,
	"created_at" timestamp with time zone NOT NULL,
	"sent_at" timestamp with time zone,
	"problem" text
);
--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "sent_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "sent_by" uuid;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "plan" jsonb;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "look_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "kind" text DEFAULT 'signer' NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "language" text;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "phone" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "check" text DEFAULT 'link' NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "code_hash" text;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "wrong" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "message" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "copy_now" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "may_decline" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "may_hand_over" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "written_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "reason" text;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "at_device_of" text;--> statement-breakpoint
ALTER TABLE "mail" ADD COLUMN "undeliverable_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "mail" ADD COLUMN "party_id" uuid;--> statement-breakpoint
ALTER TABLE "link" ADD CONSTRAINT "link_party_id_party_id_fk" FOREIGN KEY ("party_id") REFERENCES "public"."party"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "party_question" ADD CONSTRAINT "party_question_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "party_question" ADD CONSTRAINT "party_question_party_id_party_id_fk" FOREIGN KEY ("party_id") REFERENCES "public"."party"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "party_question" ADD CONSTRAINT "party_question_answered_by_person_id_fk" FOREIGN KEY ("answered_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sent_code" ADD CONSTRAINT "sent_code_party_id_party_id_fk" FOREIGN KEY ("party_id") REFERENCES "public"."party"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "shown_proof" ADD CONSTRAINT "shown_proof_party_id_party_id_fk" FOREIGN KEY ("party_id") REFERENCES "public"."party"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "text_message" ADD CONSTRAINT "text_message_agreement_id_agreement_id_fk" FOREIGN KEY ("agreement_id") REFERENCES "public"."agreement"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "link_by_party" ON "link" USING btree ("party_id");--> statement-breakpoint
CREATE INDEX "party_question_by_agreement" ON "party_question" USING btree ("agreement_id");--> statement-breakpoint
CREATE INDEX "sent_code_by_party" ON "sent_code" USING btree ("party_id","sent_at");--> statement-breakpoint
CREATE INDEX "shown_proof_by_party" ON "shown_proof" USING btree ("party_id");--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_sent_by_person_id_fk" FOREIGN KEY ("sent_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mail" ADD CONSTRAINT "mail_party_id_party_id_fk" FOREIGN KEY ("party_id") REFERENCES "public"."party"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "agreement_to_look_at" ON "agreement" USING btree ("look_at") WHERE "agreement"."state" = 'out';--> statement-breakpoint
CREATE INDEX "mail_undeliverable" ON "mail" USING btree ("undeliverable_at") WHERE "mail"."undeliverable_at" is not null;--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_kind" CHECK ("party"."kind" in ('signer', 'assenter', 'copy'));--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_check" CHECK ("party"."check" in ('link', 'mail code', 'text code', 'access code'));--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_language" CHECK ("party"."language" in ('en', 'es', 'fr'));--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_access_code" CHECK (("party"."code_hash" is not null) = ("party"."check" = 'access code'));--> statement-breakpoint
INSERT INTO "link" ("token_hash", "party_id", "made_at") SELECT "token_hash", "id", "invited_at" FROM "party" WHERE "token_hash" IS NOT NULL AND "invited_at" IS NOT NULL;--> statement-breakpoint
UPDATE "party" SET "written_at" = "invited_at";--> statement-breakpoint
UPDATE "party" SET "reason" = "told"."detail"->>'reason' FROM "trail" AS "told" WHERE "party"."declined_at" IS NOT NULL AND "told"."agreement_id" = "party"."agreement_id" AND "told"."act" = 'declined' AND "told"."detail"->>'role' = "party"."label";--> statement-breakpoint
UPDATE "agreement" SET "sent_by" = "created_by", "sent_at" = (SELECT min("invited_at") FROM "party" WHERE "party"."agreement_id" = "agreement"."id" AND "party"."revision" = "agreement"."revision") WHERE "state" IN ('out', 'executed', 'declined', 'lapsed');--> statement-breakpoint
UPDATE "agreement" SET "look_at" = "sent_at" WHERE "state" = 'out';
