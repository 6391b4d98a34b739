CREATE TABLE "intake_choices" (
	"generator" text PRIMARY KEY NOT NULL,
	"choice" jsonb NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
