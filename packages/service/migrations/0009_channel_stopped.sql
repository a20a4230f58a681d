-- What stopped of one channel: among ten million commands a channel without any was read whole to find none.
-- Only the few commands that stopped or were replaced are in these indexes, so the others pay nothing for them.

create index command_stopped_of_channel on command (channel_id, request_id desc)
  where ended in ('failed', 'unanswered', 'expired');
create index command_replaced_of_channel on command (channel_id, request_id desc)
  where ended in ('superseded', 'overtaken');
