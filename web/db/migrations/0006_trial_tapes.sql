-- Where a person's tape found the robot after a run, as it was read: along and to the left of its begin place, and
-- where it looked. A real robot cannot tell this of itself; a stand-in's own tape stays in the summary of its run.
alter table trial add column tape jsonb;
alter table trial add constraint trial_tape_object check (tape is null or jsonb_typeof(tape) = 'object');
