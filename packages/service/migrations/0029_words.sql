-- One word for one thing: tables and columns take the names that screens, files and calls have.
alter table attention rename to alert_state;
alter table alert_state rename column taken_by to assigned_to;
alter table alert_state rename column muted_until to snoozed_until;
alter table alert_state rename column closed_mark to resolved_mark;

alter table notice rename to notification;
alter table notice_delivery rename to notification_delivery;
alter table notification_delivery rename column notice to notification;
update notification
set body = ((body::jsonb - 'on') || jsonb_build_object('on',
  ((body::jsonb -> 'on') - 'attention') || jsonb_build_object('alerts', body::jsonb -> 'on' -> 'attention')))::json
where (body::jsonb -> 'on') ? 'attention';

alter table figure_span rename to statistic_span;
alter table figure rename to statistic;

-- Ends and outcomes. There is no release so far, so there are few rows.
drop index command_replaced;
drop index command_replaced_of_channel;
update command set ended = case ended when 'complete' then 'delivered' else 'replaced' end where ended in ('complete', 'superseded');
create index command_replaced on command (request_id desc) where ended in ('replaced', 'overtaken');
create index command_replaced_of_channel on command (channel_id, request_id desc) where ended in ('replaced', 'overtaken');
update request set outcome = 'not-understood' where outcome = 'unmatched';
update statistic set what = case what
  when 'complete' then 'delivered' when 'superseded' then 'replaced' when 'unmatched' then 'not-understood' end
where what in ('complete', 'superseded', 'unmatched');
update notification
set body = jsonb_set(body::jsonb, '{on,outcomes}', (
  select jsonb_agg(case word
    when 'complete' then 'delivered' when 'partly' then 'partly-delivered' when 'not-at-all' then 'not-delivered'
    when 'superseded' then 'replaced' when 'unmatched' then 'not-understood' else word end)
  from jsonb_array_elements_text(body::jsonb -> 'on' -> 'outcomes') as word))::json
where jsonb_array_length(coalesce(body::jsonb -> 'on' -> 'outcomes', '[]')) > 0;
update alert_state set kind = 'inlet-not-understood' where kind = 'inlet-unmatched';

-- The highest stage that a device can prove.
alter table command rename column aim to target_stage;
update channel set delivery = (delivery::jsonb - 'aim') || jsonb_build_object('targetStage', delivery::jsonb -> 'aim')
where delivery::jsonb ? 'aim';
update profile
set body = jsonb_set(body::jsonb #- '{delivery,aim}', '{delivery,targetStage}', body::jsonb #> '{delivery,aim}')
where body::jsonb #> '{delivery,aim}' is not null;

update inlet
set body = ((body::jsonb - 'replies') || jsonb_build_object('replies',
  ((body::jsonb -> 'replies') - 'stranger') || jsonb_build_object('unknownSender', body::jsonb -> 'replies' -> 'stranger')))::json
where (body::jsonb -> 'replies') ? 'stranger';
