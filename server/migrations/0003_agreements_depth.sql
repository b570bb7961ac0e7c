CREATE TABLE `agreement_amendment` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`number` int NOT NULL,
	`holds_from` date NOT NULL,
	`reason` text NOT NULL,
	`header` json NOT NULL,
	`price_minor` bigint,
	`at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	CONSTRAINT `agreement_amendment_id` PRIMARY KEY(`id`),
	CONSTRAINT `agreement_amendment_number` UNIQUE(`agreement_id`,`number`)
);
--> statement-breakpoint
CREATE TABLE `agreement_contact` (
	`agreement_id` int unsigned NOT NULL,
	`contact_id` int unsigned NOT NULL,
	CONSTRAINT `agreement_contact_agreement_id_contact_id_pk` PRIMARY KEY(`agreement_id`,`contact_id`)
);
--> statement-breakpoint
CREATE TABLE `agreement_type` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`terms` json NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `agreement_type_id` PRIMARY KEY(`id`),
	CONSTRAINT `agreement_type_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `allowance` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`unit` enum('visits','hours','call-outs') NOT NULL,
	`amount` int NOT NULL,
	`period` enum('agreement year','quarter','term') NOT NULL,
	`carries_over` boolean NOT NULL DEFAULT false,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `allowance_id` PRIMARY KEY(`id`),
	CONSTRAINT `allowance_unit` UNIQUE(`agreement_id`,`unit`)
);
--> statement-breakpoint
CREATE TABLE `allowance_draw` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`allowance_id` int unsigned,
	`warranty_asset_id` int unsigned,
	`order_id` int unsigned NOT NULL,
	`drawn_on` date NOT NULL,
	`amount` int NOT NULL,
	`at` datetime(3) NOT NULL,
	`returned_at` datetime(3),
	CONSTRAINT `allowance_draw_id` PRIMARY KEY(`id`),
	CONSTRAINT `allowance_draw_once` UNIQUE(`order_id`,`allowance_id`),
	CONSTRAINT `allowance_draw_warranty_once` UNIQUE(`order_id`,`warranty_asset_id`)
);
--> statement-breakpoint
ALTER TABLE `agreement` ADD `renewal_mode` enum('renews by itself','ends','to be renegotiated') DEFAULT 'to be renegotiated' NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `renewal_months` int DEFAULT 12 NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `renewal_decision` enum('accepted','declined');--> statement-breakpoint
ALTER TABLE `agreement` ADD `manager_id` int unsigned;--> statement-breakpoint
ALTER TABLE `agreement` ADD `cost_centre` varchar(40) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `currency` varchar(3) DEFAULT 'EUR' NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `price_minor` bigint;--> statement-breakpoint
ALTER TABLE `agreement` ADD `billing_per` enum('month','quarter','half-year','year','visit') DEFAULT 'month' NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `billing_timing` enum('in advance','in arrears') DEFAULT 'in advance' NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `indexation` json;--> statement-breakpoint
ALTER TABLE `agreement` ADD `suspended_cover` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `suspended_visits` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `own_fleet` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `consumables` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `excluded_parts` json;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `discounts` json;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `hours` json;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `price_minor` bigint;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `root_id` int unsigned;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `amendment_id` int unsigned;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD `ended_by_id` int unsigned;--> statement-breakpoint
ALTER TABLE `agreement_amendment` ADD CONSTRAINT `agreement_amendment_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `agreement_contact` ADD CONSTRAINT `agreement_contact_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `agreement_contact` ADD CONSTRAINT `agreement_contact_contact_id_contact_id_fk` FOREIGN KEY (`contact_id`) REFERENCES `contact`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `allowance` ADD CONSTRAINT `allowance_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `allowance_draw` ADD CONSTRAINT `allowance_draw_allowance_id_allowance_id_fk` FOREIGN KEY (`allowance_id`) REFERENCES `allowance`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `allowance_draw` ADD CONSTRAINT `allowance_draw_warranty_asset_id_asset_id_fk` FOREIGN KEY (`warranty_asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `agreement_contact_contact` ON `agreement_contact` (`contact_id`);--> statement-breakpoint
CREATE INDEX `allowance_draw_allowance` ON `allowance_draw` (`allowance_id`,`drawn_on`);--> statement-breakpoint
CREATE INDEX `allowance_draw_warranty` ON `allowance_draw` (`warranty_asset_id`,`drawn_on`);--> statement-breakpoint
ALTER TABLE `agreement` ADD CONSTRAINT `agreement_manager_id_person_id_fk` FOREIGN KEY (`manager_id`) REFERENCES `person`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
-- Without a notice period, notice can be given until the last day.
UPDATE `agreement` SET `notice_by` = `term_to` WHERE `notice_by` IS NULL AND `term_to` IS NOT NULL;
