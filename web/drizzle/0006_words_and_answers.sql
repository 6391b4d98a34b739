CREATE TABLE "house_words" (
	"word" text PRIMARY KEY NOT NULL,
	"channel" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "set_answers" (
	"id" serial PRIMARY KEY NOT NULL,
	"answer" jsonb NOT NULL,
	"asset" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "set_answers_answer_unique" UNIQUE("answer")
);
