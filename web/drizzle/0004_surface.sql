CREATE TABLE "environments" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"sha256" text NOT NULL,
	"type" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "environments_sha256_unique" UNIQUE("sha256")
);
--> statement-breakpoint
CREATE TABLE "makings" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"asset_id" uuid NOT NULL,
	"request" jsonb NOT NULL,
	"state" text DEFAULT 'queued' NOT NULL,
	"progress" real DEFAULT 0 NOT NULL,
	"cancel_requested" boolean DEFAULT false NOT NULL,
	"paths" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"notes" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"message" text DEFAULT '' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "shelf_materials" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"pattern" text DEFAULT '' NOT NULL,
	"kept" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "shelf_materials_name_unique" UNIQUE("name")
);
--> statement-breakpoint
ALTER TABLE "assets" ADD COLUMN "thumbnail_taken" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "makings" ADD CONSTRAINT "makings_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "makings_asset_id_index" ON "makings" USING btree ("asset_id");