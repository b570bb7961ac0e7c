CREATE TABLE `rota_plan` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`person_id` int unsigned NOT NULL,
	`state` enum('working','ready','failed') NOT NULL,
	`progress` int NOT NULL DEFAULT 0,
	`ask` json NOT NULL,
	`result` json,
	`accepted` json NOT NULL,
	`problem` varchar(500),
	`created_at` datetime(3) NOT NULL,
	`request_key` varchar(60),
	`request_content` varchar(64),
	CONSTRAINT `rota_plan_id` PRIMARY KEY(`id`),
	CONSTRAINT `rota_plan_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE INDEX `rota_plan_created` ON `rota_plan` (`created_at`);