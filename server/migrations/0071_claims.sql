CREATE TABLE `claim` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`state` enum('to send','sent','answered','closed') NOT NULL,
	`maker` varchar(120) NOT NULL,
	`currency` varchar(3) NOT NULL,
	`done_on` date NOT NULL,
	`asked` bigint NOT NULL,
	`accepted` bigint,
	`their_number` varchar(60) NOT NULL DEFAULT '',
	`sent_on` date,
	`paper` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `claim_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `claim_entry` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`claim_id` int unsigned NOT NULL,
	`kind` enum('accepted','credit note','payment','given up') NOT NULL,
	`maker` varchar(120) NOT NULL,
	`currency` varchar(3) NOT NULL,
	`minor` bigint NOT NULL,
	`incoming_id` int unsigned,
	`on` date NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `claim_entry_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `claim_line` (
	`claim_id` int unsigned NOT NULL,
	`charge_id` int unsigned NOT NULL,
	`borne` bigint NOT NULL,
	`asked` bigint NOT NULL,
	`accepted` bigint,
	`why` varchar(200) NOT NULL DEFAULT '',
	CONSTRAINT `claim_line_claim_id_charge_id_pk` PRIMARY KEY(`claim_id`,`charge_id`),
	CONSTRAINT `claim_line_charge` UNIQUE(`charge_id`)
);
--> statement-breakpoint
CREATE TABLE `claim_maker` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`mail` varchar(200) NOT NULL,
	`days` int,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `claim_maker_id` PRIMARY KEY(`id`),
	CONSTRAINT `claim_maker_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `claim_step` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`claim_id` int unsigned NOT NULL,
	`what` enum('sent','answered','closed','given up','opened again') NOT NULL,
	`text` varchar(400) NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `claim_step_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `claim` ADD CONSTRAINT `claim_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `claim_entry` ADD CONSTRAINT `claim_entry_claim_id_claim_id_fk` FOREIGN KEY (`claim_id`) REFERENCES `claim`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `claim_entry` ADD CONSTRAINT `claim_entry_incoming_id_incoming_payment_id_fk` FOREIGN KEY (`incoming_id`) REFERENCES `incoming_payment`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `claim_line` ADD CONSTRAINT `claim_line_claim_id_claim_id_fk` FOREIGN KEY (`claim_id`) REFERENCES `claim`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `claim_line` ADD CONSTRAINT `claim_line_charge_id_order_charge_id_fk` FOREIGN KEY (`charge_id`) REFERENCES `order_charge`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `claim_step` ADD CONSTRAINT `claim_step_claim_id_claim_id_fk` FOREIGN KEY (`claim_id`) REFERENCES `claim`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `claim_state` ON `claim` (`state`,`done_on`,`id`);--> statement-breakpoint
CREATE INDEX `claim_maker_state` ON `claim` (`maker`,`state`,`done_on`,`id`);--> statement-breakpoint
CREATE INDEX `claim_order` ON `claim` (`order_id`);--> statement-breakpoint
CREATE INDEX `claim_entry_on` ON `claim_entry` (`on`,`id`);--> statement-breakpoint
CREATE INDEX `claim_entry_claim` ON `claim_entry` (`claim_id`,`id`);--> statement-breakpoint
CREATE INDEX `claim_entry_incoming` ON `claim_entry` (`incoming_id`);--> statement-breakpoint
CREATE INDEX `claim_step_claim` ON `claim_step` (`claim_id`,`id`);--> statement-breakpoint
INSERT INTO `claim` (`order_id`, `state`, `maker`, `currency`, `done_on`, `asked`)
SELECT c.`order_id`, 'to send', coalesce(a.`maker`, ''), p.`currency`, l.`done_on`, sum(c.`borne`)
FROM `order_charge` c
JOIN `order_approval` p ON p.`order_id` = c.`order_id` AND p.`state` = 'approved'
JOIN `order_look` l ON l.`order_id` = c.`order_id`
LEFT JOIN `asset` a ON a.`id` = c.`asset_id`
WHERE c.`bears` = 'warranty' AND c.`borne` > 0
GROUP BY c.`order_id`, coalesce(a.`maker`, ''), p.`currency`, l.`done_on`;
--> statement-breakpoint
INSERT INTO `claim_line` (`claim_id`, `charge_id`, `borne`, `asked`)
SELECT m.`id`, c.`id`, c.`borne`, c.`borne`
FROM `order_charge` c
LEFT JOIN `asset` a ON a.`id` = c.`asset_id`
JOIN `claim` m ON m.`order_id` = c.`order_id` AND m.`maker` = coalesce(a.`maker`, '')
WHERE c.`bears` = 'warranty' AND c.`borne` > 0;
