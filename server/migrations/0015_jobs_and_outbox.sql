CREATE TABLE `job` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`kind` varchar(40) NOT NULL,
	`job_key` varchar(120),
	`ask` json NOT NULL,
	`state` enum('waiting','running','done','dead') NOT NULL,
	`due_at` datetime(3) NOT NULL,
	`tries` int NOT NULL DEFAULT 0,
	`lease_until` datetime(3),
	`fence` int NOT NULL DEFAULT 0,
	`progress` varchar(200),
	`problem` varchar(500),
	`created_at` datetime(3) NOT NULL,
	`started_at` datetime(3),
	`ended_at` datetime(3),
	CONSTRAINT `job_id` PRIMARY KEY(`id`),
	CONSTRAINT `job_kind_key` UNIQUE(`kind`,`job_key`)
);
--> statement-breakpoint
CREATE TABLE `message_template` (
	`kind` varchar(40) NOT NULL,
	`language` enum('en','pt') NOT NULL,
	`subject` varchar(300) NOT NULL,
	`body` text NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `message_template_kind_language_pk` PRIMARY KEY(`kind`,`language`)
);
--> statement-breakpoint
CREATE TABLE `outbox` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`out_key` varchar(120) NOT NULL,
	`kind` varchar(40) NOT NULL,
	`way` enum('mail','message','push') NOT NULL,
	`address` varchar(200) NOT NULL,
	`to_name` varchar(120) NOT NULL,
	`person_id` int unsigned,
	`subject` varchar(300) NOT NULL,
	`body` text NOT NULL,
	`about_subject` varchar(40) NOT NULL,
	`about_id` int unsigned NOT NULL,
	`state` enum('waiting','sent','dead') NOT NULL,
	`problem` varchar(500),
	`created_at` datetime(3) NOT NULL,
	`sent_at` datetime(3),
	`receipt` varchar(200),
	CONSTRAINT `outbox_id` PRIMARY KEY(`id`),
	CONSTRAINT `outbox_key` UNIQUE(`out_key`)
);
--> statement-breakpoint
INSERT INTO `job` (`kind`, `job_key`, `ask`, `state`, `due_at`, `created_at`)
	SELECT 'import', NULL, JSON_OBJECT('id', `id`), 'waiting', UTC_TIMESTAMP(3), UTC_TIMESTAMP(3) FROM `import_run` WHERE `state` = 'running';--> statement-breakpoint
DROP INDEX `import_run_state` ON `import_run`;--> statement-breakpoint
ALTER TABLE `person` ADD `phone` varchar(60);--> statement-breakpoint
ALTER TABLE `person` ADD `prefers` enum('mail','message','push') DEFAULT 'mail' NOT NULL;--> statement-breakpoint
ALTER TABLE `person` ADD `language` enum('en','pt') DEFAULT 'en' NOT NULL;--> statement-breakpoint
CREATE INDEX `job_state_due` ON `job` (`state`,`due_at`);--> statement-breakpoint
CREATE INDEX `job_kind_state` ON `job` (`kind`,`state`);--> statement-breakpoint
CREATE INDEX `job_ended` ON `job` (`ended_at`);--> statement-breakpoint
CREATE INDEX `outbox_state` ON `outbox` (`state`,`id`);--> statement-breakpoint
CREATE INDEX `outbox_about` ON `outbox` (`about_subject`,`about_id`);--> statement-breakpoint
CREATE INDEX `import_run_state` ON `import_run` (`state`);--> statement-breakpoint
ALTER TABLE `import_run` DROP COLUMN `lease_until`;--> statement-breakpoint
ALTER TABLE `import_run` DROP COLUMN `fence`;