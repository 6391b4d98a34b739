CREATE TABLE "assets" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"parcel_id" uuid NOT NULL,
	"name" text NOT NULL,
	"model" text NOT NULL,
	"source" jsonb NOT NULL,
	"embedded" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"geometry" text NOT NULL,
	"thumbnail" text,
	"severities" jsonb NOT NULL,
	"cursor" integer DEFAULT 0 NOT NULL,
	"last_edit" text DEFAULT '' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "assets_parcel_id_model_unique" UNIQUE("parcel_id","model")
);
--> statement-breakpoint
CREATE TABLE "edits" (
	"id" serial PRIMARY KEY NOT NULL,
	"asset_id" uuid NOT NULL,
	"seq" integer NOT NULL,
	"edit" jsonb NOT NULL,
	"text" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "edits_asset_id_seq_unique" UNIQUE("asset_id","seq")
);
--> statement-breakpoint
CREATE TABLE "handoffs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"asset_id" uuid NOT NULL,
	"destination" text NOT NULL,
	"variant" text NOT NULL,
	"state" text DEFAULT 'queued' NOT NULL,
	"progress" real DEFAULT 0 NOT NULL,
	"doing" text DEFAULT 'waiting for a worker' NOT NULL,
	"cancel_requested" boolean DEFAULT false NOT NULL,
	"receipt" jsonb,
	"zip" text,
	"zip_size" bigint,
	"file_name" text DEFAULT '' NOT NULL,
	"fault" jsonb,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"finished_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "parcel_files" (
	"id" serial PRIMARY KEY NOT NULL,
	"parcel_id" uuid NOT NULL,
	"path" text NOT NULL,
	"kind" text NOT NULL,
	"sha256" text NOT NULL,
	"size" bigint NOT NULL,
	"modified" timestamp with time zone,
	"info" jsonb,
	"fault" jsonb,
	CONSTRAINT "parcel_files_parcel_id_path_unique" UNIQUE("parcel_id","path")
);
--> statement-breakpoint
CREATE TABLE "parcels" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"state" text DEFAULT 'uploading' NOT NULL,
	"progress" real DEFAULT 0 NOT NULL,
	"doing" text DEFAULT '' NOT NULL,
	"faults" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"cancel_requested" boolean DEFAULT false NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "workers" (
	"id" text PRIMARY KEY NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL,
	"busy" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
ALTER TABLE "assets" ADD CONSTRAINT "assets_parcel_id_parcels_id_fk" FOREIGN KEY ("parcel_id") REFERENCES "public"."parcels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edits" ADD CONSTRAINT "edits_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "handoffs" ADD CONSTRAINT "handoffs_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "parcel_files" ADD CONSTRAINT "parcel_files_parcel_id_parcels_id_fk" FOREIGN KEY ("parcel_id") REFERENCES "public"."parcels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "parcel_files_sha256_index" ON "parcel_files" USING btree ("sha256");