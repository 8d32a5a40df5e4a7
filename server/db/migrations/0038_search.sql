-- Word similarity (PostgreSQL's own contrib). A trusted extension: the owner of the database may create it.
CREATE EXTENSION IF NOT EXISTS pg_trgm;--> statement-breakpoint
CREATE INDEX "record_by_words" ON "record" USING gin ("name" gin_trgm_ops);--> statement-breakpoint
CREATE INDEX "agreement_by_words" ON "agreement" USING gin ("name" gin_trgm_ops,"number" gin_trgm_ops);