-- +goose Up
-- What a closer look at a graded hand-in found: the known mistake that it behaves like, and the shortest script on which it differs
-- from the solution.
CREATE TABLE looks (
    handin_id   bigint PRIMARY KEY REFERENCES handins (id),
    revision_id bigint NOT NULL REFERENCES revisions (id),
    mistake     text NOT NULL DEFAULT '', -- its key; '': none
    title       text NOT NULL DEFAULT '',
    words       text NOT NULL DEFAULT '',
    says        text NOT NULL DEFAULT '',
    hint        text NOT NULL DEFAULT '',
    verdict     text NOT NULL DEFAULT '', -- differs, same, none; '': it was not looked for
    found       jsonb,
    looked_at   timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX looks_mistake ON looks (revision_id, mistake) WHERE mistake <> '';

-- The graded hand-ins that wait for that. One that somebody is at is taken until then.
CREATE TABLE unlooked (
    handin_id   bigint PRIMARY KEY REFERENCES handins (id),
    taken_until timestamptz NOT NULL DEFAULT '-infinity'
);
INSERT INTO unlooked (handin_id) SELECT handin_id FROM results;

-- How many of the programs with one mistake a revision's scenarios catch, in percent. NULL: not found out yet; -1: somebody is at it, or it
-- could not be found out.
ALTER TABLE revisions ADD strength integer;

ALTER TABLE assignments ADD tell_mistake boolean NOT NULL DEFAULT false, ADD tell_difference boolean NOT NULL DEFAULT false;

-- +goose Down
ALTER TABLE revisions DROP strength;
ALTER TABLE assignments DROP tell_mistake, DROP tell_difference;
DROP TABLE unlooked, looks;
