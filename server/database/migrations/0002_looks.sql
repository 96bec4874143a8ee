CREATE TABLE "looks" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"look" jsonb NOT NULL,
	"picture" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
