CREATE TABLE `alert_place` (
	`location_id` int unsigned NOT NULL,
	`customer_id` int unsigned NOT NULL,
	CONSTRAINT `alert_place_location_id_customer_id_pk` PRIMARY KEY(`location_id`,`customer_id`)
);
