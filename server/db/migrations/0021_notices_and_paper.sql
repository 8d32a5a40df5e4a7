CREATE TABLE "paper_page" (
	"party_id" uuid NOT NULL,
	"page" integer NOT NULL,
	"sha256" text NOT NULL,
	"added_by" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "paper_page_party_id_page_pk" PRIMARY KEY("party_id","page")
);
--> statement-breakpoint
CREATE TABLE "saved_message" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"subject" text NOT NULL,
	"message" text NOT NULL,
	"changed_by" uuid NOT NULL,
	"changed_at" timestamp with time zone NOT NULL,
	CONSTRAINT "saved_message_name_unique" UNIQUE("name")
);
--> statement-breakpoint
ALTER TABLE "agreement" DROP CONSTRAINT "agreement_state";--> statement-breakpoint
ALTER TABLE "party" DROP CONSTRAINT "party_signed_after_consent";--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "goes_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "goes_by" uuid;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "goes_unread" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "team_id" uuid;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "notice" text;--> statement-breakpoint
ALTER TABLE "agreement" ADD COLUMN "introduction" jsonb;--> statement-breakpoint
ALTER TABLE "party" ADD COLUMN "paper" jsonb;--> statement-breakpoint
ALTER TABLE "mail" ADD COLUMN "return_token" text;--> statement-breakpoint
ALTER TABLE "paper_page" ADD CONSTRAINT "paper_page_party_id_party_id_fk" FOREIGN KEY ("party_id") REFERENCES "public"."party"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "paper_page" ADD CONSTRAINT "paper_page_sha256_file_sha256_fk" FOREIGN KEY ("sha256") REFERENCES "public"."file"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "paper_page" ADD CONSTRAINT "paper_page_added_by_person_id_fk" FOREIGN KEY ("added_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_message" ADD CONSTRAINT "saved_message_changed_by_person_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_goes_by_person_id_fk" FOREIGN KEY ("goes_by") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_team_id_team_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."team"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "agreement_to_go" ON "agreement" USING btree ("goes_at");--> statement-breakpoint
ALTER TABLE "mail" ADD CONSTRAINT "mail_return_token_unique" UNIQUE("return_token");--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_notice" CHECK ("agreement"."notice" in ('mail text', 'attachment'));--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_goes" CHECK (("agreement"."goes_at" is null) = ("agreement"."goes_by" is null));--> statement-breakpoint
ALTER TABLE "agreement" ADD CONSTRAINT "agreement_state" CHECK ("agreement"."state" in ('draft', 'in approval', 'returned', 'cleared', 'out', 'executed', 'delivered', 'declined', 'lapsed', 'withdrawn'));--> statement-breakpoint
ALTER TABLE "party" ADD CONSTRAINT "party_signed_after_consent" CHECK ("party"."signed_at" is null or ("party"."invited_at" is not null and ("party"."consented_at" is not null or "party"."paper" is not null)));