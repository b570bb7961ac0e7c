CREATE TABLE `agreement_numbering` (
	`id` int NOT NULL,
	`pattern` varchar(30) NOT NULL,
	`next` int unsigned NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `agreement_numbering_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `import_mapping` MODIFY COLUMN `kind` enum('assets','customers','contacts','locations','meters','readings','agreements') NOT NULL;--> statement-breakpoint
ALTER TABLE `import_run` MODIFY COLUMN `kind` enum('assets','customers','contacts','locations','meters','readings','agreements') NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `number` varchar(40) NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `import_id` int unsigned;--> statement-breakpoint
-- Until now the number followed from the id; it is kept, and new ones go on from the highest.
UPDATE `agreement` SET `number` = CONCAT('AG-', 2000 + `id`);--> statement-breakpoint
INSERT INTO `agreement_numbering` (`id`, `pattern`, `next`) SELECT 1, 'AG-{number}', 2001 + COALESCE(MAX(`id`), 0) FROM `agreement`;--> statement-breakpoint
ALTER TABLE `agreement` ADD CONSTRAINT `agreement_number` UNIQUE(`number`);--> statement-breakpoint
CREATE INDEX `agreement_import` ON `agreement` (`import_id`);