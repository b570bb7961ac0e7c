CREATE TABLE `asset_class` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	CONSTRAINT `asset_class_id` PRIMARY KEY(`id`),
	CONSTRAINT `asset_class_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `audit` (
	`id` bigint unsigned AUTO_INCREMENT NOT NULL,
	`at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	`subject` varchar(40) NOT NULL,
	`subject_id` int unsigned NOT NULL,
	`text` text NOT NULL,
	CONSTRAINT `audit_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `calendar` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`zone` varchar(60) NOT NULL,
	`weekly` json NOT NULL,
	`closed` json NOT NULL,
	`extra_open` json NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `calendar_id` PRIMARY KEY(`id`),
	CONSTRAINT `calendar_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `change_notice` (
	`id` bigint unsigned AUTO_INCREMENT NOT NULL,
	`at` datetime(3) NOT NULL,
	`tags` json NOT NULL,
	CONSTRAINT `change_notice_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `gateway` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`key_hash` varchar(64) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`active` boolean NOT NULL DEFAULT true,
	CONSTRAINT `gateway_id` PRIMARY KEY(`id`),
	CONSTRAINT `gateway_key` UNIQUE(`key_hash`)
);
--> statement-breakpoint
CREATE TABLE `job_plan` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`minutes` int NOT NULL,
	`tasks` json NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `job_plan_id` PRIMARY KEY(`id`),
	CONSTRAINT `job_plan_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `person` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`email` varchar(200) NOT NULL,
	`name` varchar(120) NOT NULL,
	`role` enum('coordinator','dispatcher','technician','storekeeper','manager','administrator') NOT NULL,
	`zone` varchar(60) NOT NULL,
	`password_hash` varchar(200) NOT NULL,
	`active` boolean NOT NULL DEFAULT true,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `person_id` PRIMARY KEY(`id`),
	CONSTRAINT `person_email` UNIQUE(`email`)
);
--> statement-breakpoint
CREATE TABLE `service_level` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`targets` json NOT NULL,
	`pauses` json NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `service_level_id` PRIMARY KEY(`id`),
	CONSTRAINT `service_level_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `session` (
	`id` varchar(64) NOT NULL,
	`person_id` int unsigned,
	`data` json NOT NULL,
	`expires_at` datetime(3) NOT NULL,
	CONSTRAINT `session_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `asset` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`location_id` int unsigned,
	`parent_id` int unsigned,
	`class_id` int unsigned NOT NULL,
	`maker` varchar(120) NOT NULL,
	`model` varchar(120) NOT NULL,
	`serial` varchar(120) NOT NULL,
	`tag` varchar(120) NOT NULL,
	`serial_plain` varchar(120) NOT NULL,
	`owner` enum('customer','own fleet') NOT NULL,
	`state` enum('in service','out of service','in store','retired') NOT NULL DEFAULT 'in service',
	`commissioned` date,
	`warranty_until` date,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `asset_id` PRIMARY KEY(`id`),
	CONSTRAINT `asset_serial` UNIQUE(`maker`,`serial`),
	CONSTRAINT `asset_tag` UNIQUE(`tag`)
);
--> statement-breakpoint
CREATE TABLE `asset_event` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`kind` enum('registered','changed','retired') NOT NULL,
	`at` datetime(3) NOT NULL,
	`recorded_at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	`text` text NOT NULL,
	CONSTRAINT `asset_event_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `customer` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`service_address` varchar(300),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `customer_id` PRIMARY KEY(`id`),
	CONSTRAINT `customer_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `location` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`parent_id` int unsigned,
	`name` varchar(120) NOT NULL,
	`address` varchar(300),
	`zone` varchar(60),
	`latitude` double,
	`longitude` double,
	`path` varchar(160) NOT NULL,
	`full_name` varchar(760) NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `location_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `location_share` (
	`location_id` int unsigned NOT NULL,
	`customer_id` int unsigned NOT NULL,
	CONSTRAINT `location_share_customer_id_location_id_pk` PRIMARY KEY(`customer_id`,`location_id`)
);
--> statement-breakpoint
CREATE TABLE `agreement` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`name` varchar(120) NOT NULL,
	`stage` enum('draft','in force','suspended','ended') NOT NULL DEFAULT 'draft',
	`term_from` date NOT NULL,
	`term_to` date,
	`notice_days` int NOT NULL DEFAULT 0,
	`notice_by` date,
	`reminder` text NOT NULL,
	`request_key` varchar(60),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `agreement_id` PRIMARY KEY(`id`),
	CONSTRAINT `agreement_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `agreement_event` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	`text` text NOT NULL,
	CONSTRAINT `agreement_event_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `coverage_line` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`asset_id` int unsigned,
	`location_id` int unsigned,
	`asset_class_id` int unsigned,
	`term_from` date NOT NULL,
	`term_to` date,
	`labour` int NOT NULL,
	`parts` int NOT NULL,
	`travel` int NOT NULL,
	`service_level_id` int unsigned,
	`kinds` json NOT NULL,
	`excluded_causes` json NOT NULL,
	CONSTRAINT `coverage_line_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `schedule` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`job_plan_id` int unsigned NOT NULL,
	`rule` varchar(400) NOT NULL,
	`anchor` date NOT NULL,
	`convention` enum('none','following','modified following','preceding','nearest') NOT NULL,
	`calendar_id` int unsigned,
	`early_days` int NOT NULL,
	`late_days` int NOT NULL,
	`lead_days` int NOT NULL,
	`lead_unit` enum('calendar days','working days') NOT NULL,
	CONSTRAINT `schedule_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `visit` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`schedule_id` int unsigned NOT NULL,
	`nominal` date NOT NULL,
	`part` int NOT NULL DEFAULT 1,
	`asset_id` int unsigned NOT NULL,
	`agreement_id` int unsigned NOT NULL,
	`due` date NOT NULL,
	`window_from` date NOT NULL,
	`window_to` date NOT NULL,
	`state` enum('held','raised','declined','absorbed','called off') NOT NULL,
	`hold_reason` text,
	`claim` varchar(40),
	`order_id` int unsigned,
	`completed_on` date,
	CONSTRAINT `visit_id` PRIMARY KEY(`id`),
	CONSTRAINT `visit_identity` UNIQUE(`schedule_id`,`nominal`,`part`)
);
--> statement-breakpoint
CREATE TABLE `clock` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_line_id` int unsigned NOT NULL,
	`order_id` int unsigned NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`agreement_id` int unsigned,
	`zone` varchar(60) NOT NULL,
	`target` enum('response','arrival','restoration') NOT NULL,
	`state` enum('running','paused','met','missed','void') NOT NULL,
	`promised_minutes` int NOT NULL,
	`calendar_id` int unsigned,
	`started_at` datetime(3) NOT NULL,
	`due_at` datetime(3),
	`stopped_at` datetime(3),
	`left_ms` bigint,
	`note` varchar(200),
	CONSTRAINT `clock_id` PRIMARY KEY(`id`),
	CONSTRAINT `clock_line_target` UNIQUE(`order_line_id`,`target`)
);
--> statement-breakpoint
CREATE TABLE `order_event` (
	`id` bigint unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`at` datetime(3) NOT NULL,
	`recorded_at` datetime(3) NOT NULL,
	`person_id` int unsigned,
	`act` json NOT NULL,
	`request_key` varchar(60),
	CONSTRAINT `order_event_id` PRIMARY KEY(`id`),
	CONSTRAINT `order_event_request` UNIQUE(`order_id`,`request_key`)
);
--> statement-breakpoint
CREATE TABLE `order_line` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`verdict` json,
	`promises` json NOT NULL,
	CONSTRAINT `order_line_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `order_task` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`order_id` int unsigned NOT NULL,
	`position` int NOT NULL,
	`text` varchar(200) NOT NULL,
	`mandatory` int NOT NULL,
	CONSTRAINT `order_task_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `work_order` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`kind` enum('preventive','repair','inspection','installation') NOT NULL,
	`stage` enum('raised','planned','sent','on site','done','settled','called off') NOT NULL,
	`priority` int NOT NULL,
	`title` varchar(200) NOT NULL,
	`customer_id` int unsigned NOT NULL,
	`agreement_id` int unsigned,
	`visit_id` int unsigned,
	`zone` varchar(60) NOT NULL,
	`started_at` datetime(3) NOT NULL,
	`planned_for` date,
	`technician` varchar(120),
	`paused_since` datetime(3),
	`restored_at` datetime(3),
	`done_at` datetime(3),
	`minutes` int,
	`request_key` varchar(60),
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `work_order_id` PRIMARY KEY(`id`),
	CONSTRAINT `work_order_visit` UNIQUE(`visit_id`),
	CONSTRAINT `work_order_request` UNIQUE(`request_key`)
);
--> statement-breakpoint
CREATE TABLE `alert` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`rule_id` int unsigned NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`started_at` datetime(3) NOT NULL,
	`ended_at` datetime(3),
	`worst` double NOT NULL,
	`order_id` int unsigned,
	`joined` int NOT NULL DEFAULT 0,
	CONSTRAINT `alert_id` PRIMARY KEY(`id`),
	CONSTRAINT `alert_identity` UNIQUE(`rule_id`,`asset_id`,`started_at`)
);
--> statement-breakpoint
CREATE TABLE `alert_rule` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`name` varchar(120) NOT NULL,
	`asset_class_id` int unsigned NOT NULL,
	`channel` varchar(40) NOT NULL,
	`unit` varchar(20) NOT NULL,
	`side` enum('above','below') NOT NULL,
	`threshold` double NOT NULL,
	`deadband` double NOT NULL,
	`on_delay_seconds` int NOT NULL,
	`priority` int NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	CONSTRAINT `alert_rule_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `channel` (
	`device_id` int unsigned NOT NULL,
	`channel` varchar(40) NOT NULL,
	`at` datetime(3) NOT NULL,
	`value` double,
	`word` varchar(120),
	`unit` varchar(20),
	CONSTRAINT `channel_device_id_channel_pk` PRIMARY KEY(`device_id`,`channel`)
);
--> statement-breakpoint
CREATE TABLE `device` (
	`id` int unsigned AUTO_INCREMENT NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`device_key` varchar(100) NOT NULL,
	`last_at` datetime(3),
	CONSTRAINT `device_id` PRIMARY KEY(`id`),
	CONSTRAINT `device_key` UNIQUE(`device_key`)
);
--> statement-breakpoint
CREATE TABLE `reading` (
	`device_id` int unsigned NOT NULL,
	`channel` varchar(40) NOT NULL,
	`at` datetime(3) NOT NULL,
	`value` double,
	`word` varchar(120),
	`unit` varchar(20),
	CONSTRAINT `reading_device_id_channel_at_pk` PRIMARY KEY(`device_id`,`channel`,`at`)
);
--> statement-breakpoint
CREATE TABLE `rule_state` (
	`rule_id` int unsigned NOT NULL,
	`asset_id` int unsigned NOT NULL,
	`last_at` datetime(3) NOT NULL,
	`state` json NOT NULL,
	CONSTRAINT `rule_state_asset_id_rule_id_pk` PRIMARY KEY(`asset_id`,`rule_id`)
);
--> statement-breakpoint
ALTER TABLE `asset` ADD CONSTRAINT `asset_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset` ADD CONSTRAINT `asset_location_id_location_id_fk` FOREIGN KEY (`location_id`) REFERENCES `location`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset` ADD CONSTRAINT `asset_class_id_asset_class_id_fk` FOREIGN KEY (`class_id`) REFERENCES `asset_class`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset` ADD CONSTRAINT `asset_parent_fk` FOREIGN KEY (`parent_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `asset_event` ADD CONSTRAINT `asset_event_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `location` ADD CONSTRAINT `location_parent_fk` FOREIGN KEY (`parent_id`) REFERENCES `location`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `location_share` ADD CONSTRAINT `location_share_location_id_location_id_fk` FOREIGN KEY (`location_id`) REFERENCES `location`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `location_share` ADD CONSTRAINT `location_share_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `agreement` ADD CONSTRAINT `agreement_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `agreement_event` ADD CONSTRAINT `agreement_event_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD CONSTRAINT `coverage_line_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD CONSTRAINT `coverage_line_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD CONSTRAINT `coverage_line_location_id_location_id_fk` FOREIGN KEY (`location_id`) REFERENCES `location`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD CONSTRAINT `coverage_line_asset_class_id_asset_class_id_fk` FOREIGN KEY (`asset_class_id`) REFERENCES `asset_class`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `coverage_line` ADD CONSTRAINT `coverage_line_service_level_id_service_level_id_fk` FOREIGN KEY (`service_level_id`) REFERENCES `service_level`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `schedule` ADD CONSTRAINT `schedule_agreement_id_agreement_id_fk` FOREIGN KEY (`agreement_id`) REFERENCES `agreement`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `schedule` ADD CONSTRAINT `schedule_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `schedule` ADD CONSTRAINT `schedule_job_plan_id_job_plan_id_fk` FOREIGN KEY (`job_plan_id`) REFERENCES `job_plan`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `schedule` ADD CONSTRAINT `schedule_calendar_id_calendar_id_fk` FOREIGN KEY (`calendar_id`) REFERENCES `calendar`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `visit` ADD CONSTRAINT `visit_schedule_id_schedule_id_fk` FOREIGN KEY (`schedule_id`) REFERENCES `schedule`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `clock` ADD CONSTRAINT `clock_order_line_id_order_line_id_fk` FOREIGN KEY (`order_line_id`) REFERENCES `order_line`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_event` ADD CONSTRAINT `order_event_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_line` ADD CONSTRAINT `order_line_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_line` ADD CONSTRAINT `order_line_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `order_task` ADD CONSTRAINT `order_task_order_id_work_order_id_fk` FOREIGN KEY (`order_id`) REFERENCES `work_order`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `work_order` ADD CONSTRAINT `work_order_customer_id_customer_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customer`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `alert` ADD CONSTRAINT `alert_rule_id_alert_rule_id_fk` FOREIGN KEY (`rule_id`) REFERENCES `alert_rule`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `alert` ADD CONSTRAINT `alert_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `alert_rule` ADD CONSTRAINT `alert_rule_asset_class_id_asset_class_id_fk` FOREIGN KEY (`asset_class_id`) REFERENCES `asset_class`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `device` ADD CONSTRAINT `device_asset_id_asset_id_fk` FOREIGN KEY (`asset_id`) REFERENCES `asset`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `audit_subject` ON `audit` (`subject`,`subject_id`,`at`);--> statement-breakpoint
CREATE INDEX `change_notice_at` ON `change_notice` (`at`);--> statement-breakpoint
CREATE INDEX `person_role` ON `person` (`role`,`name`);--> statement-breakpoint
CREATE INDEX `session_expiry` ON `session` (`expires_at`);--> statement-breakpoint
CREATE INDEX `session_person` ON `session` (`person_id`);--> statement-breakpoint
CREATE INDEX `asset_customer` ON `asset` (`customer_id`,`tag`);--> statement-breakpoint
CREATE INDEX `asset_location` ON `asset` (`location_id`);--> statement-breakpoint
CREATE INDEX `asset_class` ON `asset` (`class_id`,`customer_id`);--> statement-breakpoint
CREATE INDEX `asset_serial_plain` ON `asset` (`serial_plain`);--> statement-breakpoint
CREATE INDEX `asset_parent` ON `asset` (`parent_id`);--> statement-breakpoint
CREATE INDEX `asset_event_asset` ON `asset_event` (`asset_id`,`at`);--> statement-breakpoint
CREATE INDEX `location_parent` ON `location` (`parent_id`);--> statement-breakpoint
CREATE INDEX `location_path` ON `location` (`path`);--> statement-breakpoint
CREATE INDEX `location_full_name` ON `location` (`full_name`);--> statement-breakpoint
CREATE INDEX `location_name` ON `location` (`name`);--> statement-breakpoint
CREATE INDEX `location_share_location` ON `location_share` (`location_id`);--> statement-breakpoint
CREATE INDEX `agreement_customer` ON `agreement` (`customer_id`);--> statement-breakpoint
CREATE INDEX `agreement_stage` ON `agreement` (`stage`,`notice_by`);--> statement-breakpoint
CREATE INDEX `agreement_event_agreement` ON `agreement_event` (`agreement_id`,`at`);--> statement-breakpoint
CREATE INDEX `coverage_line_agreement` ON `coverage_line` (`agreement_id`);--> statement-breakpoint
CREATE INDEX `coverage_line_asset` ON `coverage_line` (`asset_id`);--> statement-breakpoint
CREATE INDEX `coverage_line_location` ON `coverage_line` (`location_id`);--> statement-breakpoint
CREATE INDEX `coverage_line_class` ON `coverage_line` (`asset_class_id`);--> statement-breakpoint
CREATE INDEX `schedule_agreement` ON `schedule` (`agreement_id`);--> statement-breakpoint
CREATE INDEX `schedule_asset` ON `schedule` (`asset_id`);--> statement-breakpoint
CREATE INDEX `visit_asset` ON `visit` (`asset_id`,`due`);--> statement-breakpoint
CREATE INDEX `visit_agreement` ON `visit` (`agreement_id`,`window_to`);--> statement-breakpoint
CREATE INDEX `visit_window` ON `visit` (`state`,`completed_on`,`window_to`);--> statement-breakpoint
CREATE INDEX `visit_claim` ON `visit` (`claim`);--> statement-breakpoint
CREATE INDEX `visit_order` ON `visit` (`order_id`);--> statement-breakpoint
CREATE INDEX `clock_order` ON `clock` (`order_id`);--> statement-breakpoint
CREATE INDEX `clock_open` ON `clock` (`state`,`due_at`);--> statement-breakpoint
CREATE INDEX `clock_asset` ON `clock` (`asset_id`,`due_at`);--> statement-breakpoint
CREATE INDEX `clock_agreement` ON `clock` (`agreement_id`,`due_at`);--> statement-breakpoint
CREATE INDEX `clock_due` ON `clock` (`due_at`);--> statement-breakpoint
CREATE INDEX `order_event_order` ON `order_event` (`order_id`,`at`);--> statement-breakpoint
CREATE INDEX `order_line_order` ON `order_line` (`order_id`);--> statement-breakpoint
CREATE INDEX `order_line_asset` ON `order_line` (`asset_id`,`order_id`);--> statement-breakpoint
CREATE INDEX `order_task_order` ON `order_task` (`order_id`,`position`);--> statement-breakpoint
CREATE INDEX `work_order_stage` ON `work_order` (`stage`,`id`);--> statement-breakpoint
CREATE INDEX `work_order_customer` ON `work_order` (`customer_id`,`id`);--> statement-breakpoint
CREATE INDEX `work_order_kind` ON `work_order` (`kind`,`id`);--> statement-breakpoint
CREATE INDEX `alert_active` ON `alert` (`ended_at`,`started_at`);--> statement-breakpoint
CREATE INDEX `alert_asset` ON `alert` (`asset_id`,`rule_id`,`started_at`);--> statement-breakpoint
CREATE INDEX `alert_rule_class` ON `alert_rule` (`asset_class_id`,`channel`);--> statement-breakpoint
CREATE INDEX `device_asset` ON `device` (`asset_id`);