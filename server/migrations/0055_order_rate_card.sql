ALTER TABLE `work_order` ADD `rate_card_id` int unsigned;--> statement-breakpoint
UPDATE `work_order` w JOIN `customer` c ON c.`id` = w.`customer_id` SET w.`rate_card_id` = COALESCE(c.`rate_card_id`, (SELECT `id` FROM `rate_card` WHERE `is_standard` = 1));
