CREATE TABLE "arrival_entries" (
	"folder_id" uuid NOT NULL,
	"name" text NOT NULL,
	"stamp" text NOT NULL,
	"parcel_id" uuid,
	"state" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"wrote" jsonb NOT NULL,
	CONSTRAINT "arrival_entries_folder_id_name_pk" PRIMARY KEY("folder_id","name")
);
--> statement-breakpoint
CREATE TABLE "arrival_folders" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"path" text NOT NULL,
	"rules" jsonb NOT NULL,
	"destinations" jsonb NOT NULL,
	"mend" boolean NOT NULL,
	"output" text,
	"message" text DEFAULT '' NOT NULL,
	"seen_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "arrival_folders_path_unique" UNIQUE("path")
);
--> statement-breakpoint
ALTER TABLE "arrival_entries" ADD CONSTRAINT "arrival_entries_folder_id_arrival_folders_id_fk" FOREIGN KEY ("folder_id") REFERENCES "public"."arrival_folders"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "arrival_entries" ADD CONSTRAINT "arrival_entries_parcel_id_parcels_id_fk" FOREIGN KEY ("parcel_id") REFERENCES "public"."parcels"("id") ON DELETE set null ON UPDATE no action;