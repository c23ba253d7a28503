-- Words a person puts on runs, to find them by.
alter table trial add column tags text[] not null default '{}';
create index trial_tags on trial using gin (tags);
