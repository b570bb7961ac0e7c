ALTER TABLE `job_plan` ADD `also_skill_ids` json;--> statement-breakpoint
ALTER TABLE `job_plan` ADD `form_ids` json;--> statement-breakpoint
UPDATE `order_line` SET `plan` = JSON_REMOVE(JSON_SET(`plan`, '$.skills', JSON_ARRAY(JSON_VALUE(`plan`, '$.skill')), '$.formIds', JSON_ARRAY()), '$.skill') WHERE JSON_VALUE(`plan`, '$.skill') IS NOT NULL;--> statement-breakpoint
UPDATE `order_line` SET `plan` = JSON_REMOVE(JSON_SET(`plan`, '$.skills', JSON_ARRAY(), '$.formIds', JSON_ARRAY()), '$.skill') WHERE JSON_TYPE(`plan`) = 'OBJECT' AND JSON_EXISTS(`plan`, '$.skills') = 0;
