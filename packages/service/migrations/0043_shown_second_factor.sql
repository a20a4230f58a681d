-- Whether a session's member has shown a second factor in it. A session that was opened before there was one has not: it is not a recent
-- sign-in, however young.

alter table session add column second_factor boolean not null default false;
update session set second_factor = proof not in ('password', 'set-up link');
