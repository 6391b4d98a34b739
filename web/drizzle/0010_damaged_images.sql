ALTER TABLE "image_facts" ADD COLUMN "fault" jsonb;--> statement-breakpoint
DELETE FROM "image_facts" WHERE "facts" IS NULL;
