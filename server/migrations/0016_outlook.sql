CREATE TABLE `outlook` (
	`schedule_id` int unsigned NOT NULL,
	`as_of` date NOT NULL,
	`to_raise` int NOT NULL,
	`held` int NOT NULL,
	`next_raise` date,
	`care_reason` varchar(500),
	CONSTRAINT `outlook_schedule_id` PRIMARY KEY(`schedule_id`)
);
