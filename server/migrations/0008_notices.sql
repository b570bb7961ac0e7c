CREATE TABLE `agreement_notice` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`person_id` int unsigned NOT NULL,
	`notice_by` date NOT NULL,
	`text` varchar(300) NOT NULL,
	`at` datetime(3) NOT NULL,
	`seen_at` datetime(3),
	CONSTRAINT `agreement_notice_id` PRIMARY KEY(`id`),
	CONSTRAINT `agreement_notice_date` UNIQUE(`agreement_id`,`notice_by`)
);
--> statement-breakpoint
ALTER TABLE `agreement_notice` ADD CONSTRAINT `agreement_notice_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `agreement_notice` ADD CONSTRAINT `agreement_notice_person_id_person_id_fk` FOREIGN KEY (`person_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `agreement_notice_person` ON `agreement_notice` (`person_id`,`seen_at`);