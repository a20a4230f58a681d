-- Every list that a screen shows is an index scan with a cursor, newest first, whatever it is filtered by.
-- Request ids are UUIDv7: their order is the order of asking. So the channel's index can end with them and serve both
-- "the newest command of this channel" and "this channel's deliveries before that one".

create index command_by_channel_request on command (channel_id, request_id desc);
drop index command_by_channel;

-- What stopped is a small part of all: a partial index finds it among millions.
create index command_stopped on command (request_id desc) where ended in ('failed', 'unanswered', 'expired');
create index command_replaced on command (request_id desc) where ended in ('superseded', 'overtaken');
create index request_refused on request (id desc) where outcome is not null;
create index request_by_asker on request (lower(asker), id desc);
