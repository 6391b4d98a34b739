CREATE COLLATION IF NOT EXISTS "kinkajou_numeric" (provider = icu, locale = 'en-u-kn-true');--> statement-breakpoint
CREATE TABLE "asset_changes" (
	"asset_id" uuid NOT NULL,
	"revision" integer NOT NULL,
	"author" text DEFAULT '' NOT NULL,
	"text" text NOT NULL,
	"touches" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "asset_changes_asset_id_revision_pk" PRIMARY KEY("asset_id","revision")
);
--> statement-breakpoint
CREATE TABLE "stamps" (
	"name" text PRIMARY KEY NOT NULL,
	"value" integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
ALTER TABLE "assets" ADD COLUMN "format" text GENERATED ALWAYS AS (coalesce(source->>'format', '')) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "assets" ADD COLUMN "variant" text GENERATED ALWAYS AS (coalesce(source->>'variant', '')) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "assets" ADD COLUMN "counts" jsonb GENERATED ALWAYS AS (coalesce(source->'counts', '{}')) STORED NOT NULL;--> statement-breakpoint
ALTER TABLE "assets" ADD COLUMN "bounds" jsonb GENERATED ALWAYS AS (source->'bounds') STORED;--> statement-breakpoint
ALTER TABLE "assets" ADD COLUMN "revision" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "edits" ADD COLUMN "author" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "asset_changes" ADD CONSTRAINT "asset_changes_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "assets_updated_at_index" ON "assets" USING btree ("updated_at");--> statement-breakpoint
CREATE INDEX "assets_name_index" ON "assets" USING btree ("name");