-- +goose Up
-- An exercise as it is being written: the folder that will be its next revision.
CREATE TABLE writings (
    exercise_id bigint PRIMARY KEY REFERENCES exercises (id),
    files       jsonb NOT NULL,
    title       text NOT NULL,
    topic       text NOT NULL,
    languages   text NOT NULL,
    settled     text NOT NULL DEFAULT '', -- the solution that the instructor has last agreed with
    base        integer NOT NULL,         -- the revision that it goes on from; 0: none
    version     integer NOT NULL,         -- counts the savings, from 1
    saved_by    bigint NOT NULL REFERENCES people (id),
    saved_at    timestamptz NOT NULL DEFAULT now()
);
ALTER TABLE revisions ADD note text NOT NULL DEFAULT '', ADD languages text NOT NULL DEFAULT '';
-- An exercise that is withdrawn is not offered any more; hand-ins to it and their marks stay.
ALTER TABLE exercises ADD withdrawn_at timestamptz;

-- A course: exercises of its owner's in the order in which they are taught, as course.yaml has them.
CREATE TABLE courses (
    id       bigserial PRIMARY KEY,
    owner_id bigint NOT NULL REFERENCES people (id),
    name     text NOT NULL,
    title    text NOT NULL,
    text     text NOT NULL,
    version  integer NOT NULL DEFAULT 1, -- counts the savings
    saved_at timestamptz NOT NULL DEFAULT now(),
    UNIQUE (owner_id, name)
);

-- +goose Down
DROP TABLE courses;
ALTER TABLE exercises DROP withdrawn_at;
ALTER TABLE revisions DROP note, DROP languages;
DROP TABLE writings;
