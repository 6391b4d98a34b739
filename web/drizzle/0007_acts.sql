ALTER TABLE "edits" ADD COLUMN "act" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
UPDATE "edits" SET "act" = "seq";
