-- Runs that a person timed in a practice round: without a trace.
alter table trial drop constraint trial_source_known;
alter table trial add constraint trial_source_known check (source in ('rehearsal', 'robot', 'drive', 'practice'));
