CREATE TABLE `sign_in_try` (
	`id` varchar(64) NOT NULL,
	`tries` int NOT NULL,
	`last_at` datetime(3) NOT NULL,
	CONSTRAINT `sign_in_try_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `sign_in_try_last` ON `sign_in_try` (`last_at`);