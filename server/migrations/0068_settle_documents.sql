CREATE TABLE `agreement_suspension` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`from_day` date NOT NULL,
	`resumed_on` date,
	CONSTRAINT `agreement_suspension_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `billing_run` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`state` enum('waiting','running','ended') NOT NULL,
	`up_to` date NOT NULL,
	`takes_orders` boolean NOT NULL,
	`takes_fees` boolean NOT NULL,
	`customer_id` int unsigned,
	`issues` boolean NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`last_id` int unsigned NOT NULL,
	`documents` int NOT NULL DEFAULT 0,
	`with_tax` bigint NOT NULL DEFAULT 0,
	`ended_at` datetime(3),
	`request_key` varchar(60) NOT NULL,
	`request_content` varchar(64) NOT NULL,
	CONSTRAINT `billing_run_id` PRIMARY KEY(`id`),
	CONSTRAINT `billing_run_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `billing_run_left` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`run_id` int unsigned NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`order_id` int unsigned,
	`agreement_id` int unsigned,
	`reason` varchar(300) NOT NULL,
	CONSTRAINT `billing_run_left_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `charge_correction` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`line_id` int unsigned,
	`element` enum('labour','parts','consumables','travel','other'),
	`kind` enum('goodwill','payers') NOT NULL,
	`percent` int,
	`minor` bigint,
	`payers` json,
	`reason` varchar(300) NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`request_key` varchar(60) NOT NULL,
	`request_content` varchar(64) NOT NULL,
	CONSTRAINT `charge_correction_id` PRIMARY KEY(`id`),
	CONSTRAINT `charge_correction_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `charge_payer` (
	`charge_id` int unsigned NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`order_id` int unsigned NOT NULL,
	`done_on` date NOT NULL,
	`minor` bigint NOT NULL,
	`state` enum('open','billed','silent') NOT NULL,
	`times` int NOT NULL DEFAULT 0,
	CONSTRAINT `charge_payer_charge_id_customer_id_pk` PRIMARY KEY(`charge_id`,`customer_id`)
);
--> statement-breakpoint
CREATE TABLE `customer_billing` (
	`customer_id` int unsigned NOT NULL,
	`grouping` enum('order','month') NOT NULL,
	`shows_covered` boolean NOT NULL,
	`needs_reference` boolean NOT NULL,
	`tax_id` int unsigned,
	`address` varchar(300) NOT NULL,
	`country` varchar(2) NOT NULL,
	`tax_number` varchar(40) NOT NULL,
	`contact_id` int unsigned,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `customer_billing_customer_id` PRIMARY KEY(`customer_id`)
);
--> statement-breakpoint
CREATE TABLE `document` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`kind` enum('invoice','credit note') NOT NULL,
	`state` enum('draft','issued') NOT NULL,
	`number` int unsigned,
	`number_text` varchar(30),
	`customer_id` int unsigned NOT NULL,
	`currency` varchar(3) NOT NULL,
	`about` varchar(60) NOT NULL,
	`issued_on` date,
	`due_on` date,
	`without_tax` bigint NOT NULL,
	`tax` bigint NOT NULL,
	`with_tax` bigint NOT NULL,
	`paid` bigint NOT NULL DEFAULT 0,
	`customer_reference` varchar(200) NOT NULL,
	`language` enum('en','pt') NOT NULL,
	`seller` json,
	`buyer` json,
	`account` varchar(60) NOT NULL DEFAULT '',
	`of_id` int unsigned,
	`reason` varchar(300) NOT NULL DEFAULT '',
	`run_id` int unsigned,
	`person_id` int unsigned,
	`made_at` datetime(3) NOT NULL,
	`issued_at` datetime(3),
	`paper` varchar(64),
	`request_key` varchar(60),
	`request_content` varchar(64),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `document_id` PRIMARY KEY(`id`),
	CONSTRAINT `document_number` UNIQUE(`kind`,`number`),
	CONSTRAINT `document_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `document_line` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`document_id` int unsigned NOT NULL,
	`position` int NOT NULL,
	`source_key` varchar(80),
	`order_id` int unsigned,
	`agreement_id` int unsigned,
	`asset_id` int unsigned,
	`charge_id` int unsigned,
	`day` date NOT NULL,
	`text` varchar(300) NOT NULL,
	`quantity` bigint NOT NULL,
	`unit` varchar(6) NOT NULL,
	`list` bigint NOT NULL,
	`off` bigint NOT NULL,
	`net` bigint NOT NULL,
	`off_because` varchar(200) NOT NULL,
	`tax_category` enum('S','Z','E','AE') NOT NULL,
	`tax_hundredths` int NOT NULL,
	`fee_key` varchar(30),
	`fee_from` date,
	`fee_to` date,
	`of_line_id` int unsigned,
	`again` boolean NOT NULL DEFAULT false,
	CONSTRAINT `document_line_id` PRIMARY KEY(`id`),
	CONSTRAINT `document_line_source` UNIQUE(`source_key`)
);
--> statement-breakpoint
CREATE TABLE `document_paid` (
	`document_id` int unsigned NOT NULL,
	`order_id` int unsigned NOT NULL,
	`minor` bigint NOT NULL,
	CONSTRAINT `document_paid_document_id_order_id_pk` PRIMARY KEY(`document_id`,`order_id`)
);
--> statement-breakpoint
CREATE TABLE `document_series` (
	`kind` enum('invoice','credit note') NOT NULL,
	`prefix` varchar(12) NOT NULL,
	`next` int unsigned NOT NULL,
	CONSTRAINT `document_series_kind` PRIMARY KEY(`kind`)
);
--> statement-breakpoint
CREATE TABLE `document_tax` (
	`document_id` int unsigned NOT NULL,
	`category` enum('S','Z','E','AE') NOT NULL,
	`hundredths` int NOT NULL,
	`taxable` bigint NOT NULL,
	`tax` bigint NOT NULL,
	CONSTRAINT `document_tax_document_id_category_hundredths_pk` PRIMARY KEY(`document_id`,`category`,`hundredths`)
);
--> statement-breakpoint
CREATE TABLE `order_approval` (
	`order_id` int unsigned NOT NULL,
	`state` enum('second','approved') NOT NULL,
	`digest` varchar(64) NOT NULL,
	`currency` varchar(3) NOT NULL,
	`cost` bigint NOT NULL,
	`list` bigint NOT NULL,
	`borne` bigint NOT NULL,
	`discount` bigint NOT NULL,
	`goodwill` bigint NOT NULL,
	`pay` bigint NOT NULL,
	`person_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`second_id` int unsigned,
	`second_at` datetime(3),
	CONSTRAINT `order_approval_order_id` PRIMARY KEY(`order_id`)
);
--> statement-breakpoint
CREATE TABLE `order_charge` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`asset_id` int unsigned,
	`agreement_id` int unsigned,
	`element` enum('labour','parts','consumables','travel','other') NOT NULL,
	`text` varchar(300) NOT NULL,
	`quantity` bigint NOT NULL,
	`unit` varchar(6) NOT NULL,
	`cost` bigint NOT NULL,
	`list` bigint NOT NULL,
	`borne` bigint NOT NULL,
	`discount` bigint NOT NULL,
	`goodwill` bigint NOT NULL,
	`pay` bigint NOT NULL,
	`bearer` varchar(160),
	`tax_category` enum('S','Z','E','AE'),
	`tax_hundredths` int,
	`derivation` json NOT NULL,
	CONSTRAINT `order_charge_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `order_look` (
	`order_id` int unsigned NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`done_on` date NOT NULL,
	`state` enum('to look at','second','approved','settled') NOT NULL,
	`currency` varchar(3) NOT NULL,
	`cost` bigint NOT NULL,
	`list` bigint NOT NULL,
	`pay` bigint NOT NULL,
	`odd` json NOT NULL,
	`is_plain` boolean NOT NULL,
	`like` varchar(40) NOT NULL,
	`digest` varchar(64) NOT NULL,
	CONSTRAINT `order_look_order_id` PRIMARY KEY(`order_id`)
);
--> statement-breakpoint
CREATE TABLE `order_mark` (
	`order_id` int unsigned NOT NULL,
	`marks` int NOT NULL,
	CONSTRAINT `order_mark_order_id` PRIMARY KEY(`order_id`)
);
--> statement-breakpoint
CREATE TABLE `settle_setting` (
	`id` int NOT NULL,
	`bills_from` date,
	`second_above` bigint,
	`seller` json,
	`account` varchar(60) NOT NULL DEFAULT '',
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `settle_setting_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `agreement` ADD `suspended_billing` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `agreement` ADD `ended_on` date;--> statement-breakpoint
ALTER TABLE `agreement_suspension` ADD CONSTRAINT `agreement_suspension_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `billing_run_left` ADD CONSTRAINT `billing_run_left_run_id_billing_run_id_fk` FOREIGN KEY (`run_id`) REFERENCES `billing_run`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `charge_correction` ADD CONSTRAINT `charge_correction_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `charge_payer` ADD CONSTRAINT `charge_payer_charge_id_order_charge_id_fk` FOREIGN KEY (`charge_id`) REFERENCES `order_charge`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `customer_billing` ADD CONSTRAINT `customer_billing_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `customer_billing` ADD CONSTRAINT `customer_billing_tax_id_tax_id_fk` FOREIGN KEY (`tax_id`) REFERENCES `tax`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `document` ADD CONSTRAINT `document_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `document_line` ADD CONSTRAINT `document_line_document_id_document_id_fk` FOREIGN KEY (`document_id`) REFERENCES `document`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `document_paid` ADD CONSTRAINT `document_paid_document_id_document_id_fk` FOREIGN KEY (`document_id`) REFERENCES `document`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `document_tax` ADD CONSTRAINT `document_tax_document_id_document_id_fk` FOREIGN KEY (`document_id`) REFERENCES `document`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_approval` ADD CONSTRAINT `order_approval_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_charge` ADD CONSTRAINT `order_charge_order_id_order_approval_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `order_approval`(`order_id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_look` ADD CONSTRAINT `order_look_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `agreement_suspension_agreement` ON `agreement_suspension` (`agreement_id`);--> statement-breakpoint
CREATE INDEX `billing_run_at` ON `billing_run` (`at`);--> statement-breakpoint
CREATE INDEX `billing_run_left_run` ON `billing_run_left` (`run_id`,`id`);--> statement-breakpoint
CREATE INDEX `charge_correction_order` ON `charge_correction` (`order_id`,`id`);--> statement-breakpoint
CREATE INDEX `charge_payer_open` ON `charge_payer` (`state`,`customer_id`,`done_on`);--> statement-breakpoint
CREATE INDEX `charge_payer_order` ON `charge_payer` (`order_id`,`state`);--> statement-breakpoint
CREATE INDEX `document_state` ON `document` (`state`,`id`);--> statement-breakpoint
CREATE INDEX `document_customer` ON `document` (`customer_id`,`state`,`id`);--> statement-breakpoint
CREATE INDEX `document_of` ON `document` (`of_id`);--> statement-breakpoint
CREATE INDEX `document_run` ON `document` (`run_id`);--> statement-breakpoint
CREATE INDEX `document_line_document` ON `document_line` (`document_id`,`position`);--> statement-breakpoint
CREATE INDEX `document_line_order` ON `document_line` (`order_id`);--> statement-breakpoint
CREATE INDEX `document_line_fee` ON `document_line` (`agreement_id`,`fee_from`);--> statement-breakpoint
CREATE INDEX `document_line_of` ON `document_line` (`of_line_id`);--> statement-breakpoint
CREATE INDEX `document_paid_order` ON `document_paid` (`order_id`);--> statement-breakpoint
CREATE INDEX `order_approval_state` ON `order_approval` (`state`,`at`);--> statement-breakpoint
CREATE INDEX `order_charge_order` ON `order_charge` (`order_id`);--> statement-breakpoint
CREATE INDEX `order_look_state` ON `order_look` (`state`,`is_plain`,`done_on`,`order_id`);--> statement-breakpoint
CREATE INDEX `order_look_customer` ON `order_look` (`customer_id`,`state`,`done_on`);--> statement-breakpoint
CREATE INDEX `order_look_like` ON `order_look` (`like`,`done_on`,`cost`);--> statement-breakpoint
-- When agreements were suspended and ended, as their events tell it.
INSERT INTO `agreement_suspension` (`agreement_id`, `from_day`, `resumed_on`)
SELECT e.`agreement_id`, DATE(e.`at`), (
  SELECT MIN(DATE(n.`at`)) FROM `agreement_event` n
  WHERE n.`agreement_id` = e.`agreement_id` AND n.`id` > e.`id`
    AND (n.`text` LIKE 'suspended → in force:%' OR n.`text` LIKE 'suspended → ended:%'))
FROM `agreement_event` e WHERE e.`text` LIKE 'in force → suspended:%';--> statement-breakpoint
UPDATE `agreement` a SET a.`ended_on` = (
  SELECT DATE(MAX(e.`at`)) FROM `agreement_event` e
  WHERE e.`agreement_id` = a.`id` AND e.`text` LIKE '% → ended:%')
WHERE a.`stage` = 'ended';
