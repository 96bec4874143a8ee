CREATE TABLE "versions" (
	"id" text PRIMARY KEY NOT NULL,
	"shot_id" text NOT NULL,
	"name" text NOT NULL,
	"why" text NOT NULL,
	"document" jsonb NOT NULL,
	"picture" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "versions_by_shot" ON "versions" USING btree ("shot_id","created_at");