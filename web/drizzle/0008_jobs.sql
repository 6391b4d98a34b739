CREATE TABLE "jobs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"kind" text NOT NULL,
	"data" jsonb NOT NULL,
	"subject" text NOT NULL,
	"key" text,
	"state" text DEFAULT 'queued' NOT NULL,
	"progress" real DEFAULT 0 NOT NULL,
	"doing" text DEFAULT 'waiting for a worker' NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"cancel_requested" boolean DEFAULT false NOT NULL,
	"worker" text,
	"lease_until" timestamp with time zone,
	"run_after" timestamp with time zone DEFAULT now() NOT NULL,
	"result" jsonb,
	"fault" jsonb,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"finished_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "conversions" ALTER COLUMN "id" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "handoffs" ALTER COLUMN "id" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "makings" ALTER COLUMN "id" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "edits" ADD COLUMN "job" uuid;--> statement-breakpoint
ALTER TABLE "parcels" ADD COLUMN "job_id" uuid;--> statement-breakpoint
CREATE INDEX "jobs_state_lease_until_index" ON "jobs" USING btree ("state","lease_until");--> statement-breakpoint
CREATE INDEX "jobs_subject_index" ON "jobs" USING btree ("subject");--> statement-breakpoint
CREATE UNIQUE INDEX "jobs_waiting" ON "jobs" USING btree ("kind","key") WHERE state = 'queued';--> statement-breakpoint
INSERT INTO "jobs" ("id", "kind", "data", "subject", "state", "progress", "doing", "fault", "created_at", "finished_at")
SELECT "id", 'hand-off', jsonb_build_object('assetId', "asset_id"), "asset_id"::text, CASE WHEN "state" = 'running' THEN 'queued' ELSE "state" END, "progress", "doing", "fault", "created_at", "finished_at" FROM "handoffs";--> statement-breakpoint
INSERT INTO "jobs" ("id", "kind", "data", "subject", "state", "progress", "doing", "fault", "created_at", "finished_at")
SELECT "id", 'make-maps', jsonb_build_object('assetId', "asset_id"), "asset_id"::text, CASE WHEN "state" = 'running' THEN 'queued' ELSE "state" END, "progress", '', CASE WHEN "message" <> '' THEN jsonb_build_object('code', 'making.failed', 'message', "message", 'hint', '', 'file', '') END, "created_at", CASE WHEN "state" NOT IN ('queued', 'running') THEN "created_at" END FROM "makings";--> statement-breakpoint
INSERT INTO "jobs" ("id", "kind", "data", "subject", "state", "progress", "doing", "fault", "created_at", "finished_at")
SELECT "id", 'convert-image', jsonb_build_object('assetId', "asset_id"), "asset_id"::text, CASE WHEN "state" = 'running' THEN 'queued' ELSE "state" END, 0, '', CASE WHEN "message" <> '' THEN jsonb_build_object('code', 'conversion.failed', 'message', "message", 'hint', '', 'file', '') END, "created_at", CASE WHEN "state" NOT IN ('queued', 'running') THEN "created_at" END FROM "conversions";--> statement-breakpoint
WITH "left" AS (SELECT "id" AS "parcel", gen_random_uuid() AS "job" FROM "parcels" WHERE "state" = 'reading'),
"made" AS (INSERT INTO "jobs" ("id", "kind", "data", "subject") SELECT "job", 'read-parcel', jsonb_build_object('parcelId', "parcel"), "parcel"::text FROM "left" RETURNING "id")
UPDATE "parcels" SET "job_id" = "left"."job" FROM "left" WHERE "parcels"."id" = "left"."parcel";--> statement-breakpoint
ALTER TABLE "conversions" ADD CONSTRAINT "conversions_id_jobs_id_fk" FOREIGN KEY ("id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "handoffs" ADD CONSTRAINT "handoffs_id_jobs_id_fk" FOREIGN KEY ("id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "makings" ADD CONSTRAINT "makings_id_jobs_id_fk" FOREIGN KEY ("id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "parcels" ADD CONSTRAINT "parcels_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "conversions" DROP COLUMN "state";--> statement-breakpoint
ALTER TABLE "conversions" DROP COLUMN "message";--> statement-breakpoint
ALTER TABLE "handoffs" DROP COLUMN "state";--> statement-breakpoint
ALTER TABLE "handoffs" DROP COLUMN "progress";--> statement-breakpoint
ALTER TABLE "handoffs" DROP COLUMN "doing";--> statement-breakpoint
ALTER TABLE "handoffs" DROP COLUMN "cancel_requested";--> statement-breakpoint
ALTER TABLE "handoffs" DROP COLUMN "fault";--> statement-breakpoint
ALTER TABLE "handoffs" DROP COLUMN "finished_at";--> statement-breakpoint
ALTER TABLE "makings" DROP COLUMN "state";--> statement-breakpoint
ALTER TABLE "makings" DROP COLUMN "progress";--> statement-breakpoint
ALTER TABLE "makings" DROP COLUMN "cancel_requested";--> statement-breakpoint
ALTER TABLE "makings" DROP COLUMN "message";--> statement-breakpoint
ALTER TABLE "parcels" DROP COLUMN "progress";--> statement-breakpoint
ALTER TABLE "parcels" DROP COLUMN "doing";--> statement-breakpoint
ALTER TABLE "parcels" DROP COLUMN "cancel_requested";--> statement-breakpoint
ALTER TABLE "workers" DROP COLUMN "busy";