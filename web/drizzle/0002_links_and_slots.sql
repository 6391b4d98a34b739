CREATE TABLE "conversions" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"asset_id" uuid NOT NULL,
	"request" jsonb NOT NULL,
	"state" text DEFAULT 'queued' NOT NULL,
	"path" text,
	"report" jsonb,
	"message" text DEFAULT '' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "deliveries" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"asset_id" uuid NOT NULL,
	"parcel_id" uuid NOT NULL,
	"previous_parcel_id" uuid NOT NULL,
	"previous_model" text NOT NULL,
	"summary" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "image_facts" (
	"sha256" text PRIMARY KEY NOT NULL,
	"version" integer NOT NULL,
	"facts" jsonb
);
--> statement-breakpoint
CREATE TABLE "root_files" (
	"id" serial PRIMARY KEY NOT NULL,
	"root_id" integer NOT NULL,
	"path" text NOT NULL,
	"stem" text NOT NULL,
	"size" bigint NOT NULL,
	"modified" timestamp with time zone NOT NULL,
	"sha256" text,
	"info" jsonb,
	CONSTRAINT "root_files_root_id_path_unique" UNIQUE("root_id","path")
);
--> statement-breakpoint
CREATE TABLE "search_roots" (
	"id" serial PRIMARY KEY NOT NULL,
	"path" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"message" text DEFAULT '' NOT NULL,
	"indexed_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "search_roots_path_unique" UNIQUE("path")
);
--> statement-breakpoint
CREATE TABLE "slot_templates" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"template" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "slot_templates_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "watched_folders" (
	"asset_id" uuid PRIMARY KEY NOT NULL,
	"path" text NOT NULL,
	"message" text DEFAULT '' NOT NULL,
	"seen_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "conversions" ADD CONSTRAINT "conversions_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_parcel_id_parcels_id_fk" FOREIGN KEY ("parcel_id") REFERENCES "public"."parcels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "root_files" ADD CONSTRAINT "root_files_root_id_search_roots_id_fk" FOREIGN KEY ("root_id") REFERENCES "public"."search_roots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "watched_folders" ADD CONSTRAINT "watched_folders_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "deliveries_asset_id_index" ON "deliveries" USING btree ("asset_id");--> statement-breakpoint
CREATE INDEX "root_files_stem_index" ON "root_files" USING btree ("stem");--> statement-breakpoint
CREATE INDEX "root_files_sha256_index" ON "root_files" USING btree ("sha256");