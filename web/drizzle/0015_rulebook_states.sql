CREATE TABLE "rulebook_states" (
	"id" serial PRIMARY KEY NOT NULL,
	"rulebook_id" uuid NOT NULL,
	"book" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "rulebook_states" ADD CONSTRAINT "rulebook_states_rulebook_id_rulebooks_id_fk" FOREIGN KEY ("rulebook_id") REFERENCES "public"."rulebooks"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "rulebook_states_rulebook_id_index" ON "rulebook_states" USING btree ("rulebook_id");