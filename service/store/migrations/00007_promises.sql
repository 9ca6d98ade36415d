-- +goose Up
-- An exercise belongs to somebody; its name is its own among theirs. What was pushed so far belongs to whoever pushed it first; others who did may go on.
CREATE TABLE exercises (
    id         bigserial PRIMARY KEY,
    owner_id   bigint NOT NULL REFERENCES people (id),
    name       text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    UNIQUE (owner_id, name)
);
CREATE TABLE shares (
    exercise_id bigint NOT NULL REFERENCES exercises (id),
    person_id   bigint NOT NULL REFERENCES people (id),
    may         text NOT NULL CHECK (may IN ('read', 'change')),
    PRIMARY KEY (exercise_id, person_id)
);
INSERT INTO exercises (owner_id, name) SELECT created_by, name FROM revisions WHERE number = 1 ORDER BY id;
ALTER TABLE revisions ADD exercise_id bigint REFERENCES exercises (id);
UPDATE revisions r SET exercise_id = e.id FROM exercises e WHERE e.name = r.name;
ALTER TABLE revisions ALTER exercise_id SET NOT NULL;
ALTER TABLE revisions DROP CONSTRAINT revisions_name_number_key;
ALTER TABLE revisions ADD UNIQUE (exercise_id, number);
INSERT INTO shares (exercise_id, person_id, may)
    SELECT DISTINCT r.exercise_id, r.created_by, 'change' FROM revisions r JOIN exercises e ON e.id = r.exercise_id WHERE r.created_by <> e.owner_id;

-- How much a person has handed in: hand-ins are numbered here, and nobody counts them.
CREATE TABLE tallies (
    assignment_id bigint NOT NULL REFERENCES assignments (id),
    person_id     bigint NOT NULL REFERENCES people (id),
    handins       integer NOT NULL,
    graded        integer NOT NULL,
    PRIMARY KEY (assignment_id, person_id)
) WITH (fillfactor = 80);
INSERT INTO tallies (assignment_id, person_id, handins, graded)
    SELECT h.assignment_id, h.person_id, max(h.number), count(r.handin_id) FROM handins h LEFT JOIN results r ON r.handin_id = h.id GROUP BY 1, 2;

-- The hand-ins that have no result yet. A row comes with the hand-in and goes with its result.
CREATE TABLE waiting (
    handin_id     bigint PRIMARY KEY REFERENCES handins (id),
    assignment_id bigint NOT NULL,
    person_id     bigint NOT NULL,
    since         timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX waiting_person ON waiting (person_id);
INSERT INTO waiting (handin_id, assignment_id, person_id, since)
    SELECT h.id, h.assignment_id, h.person_id, h.created_at FROM handins h WHERE NOT EXISTS (SELECT FROM results r WHERE r.handin_id = h.id);

-- An Idempotency-Key is one hand-in's in the whole service; its digest is kept. Of one that two people have used, the first keeps it.
UPDATE handins h SET key = NULL WHERE key IS NOT NULL AND EXISTS (SELECT FROM handins o WHERE o.key = h.key AND o.id < h.id);
ALTER TABLE handins DROP CONSTRAINT handins_person_id_key_key;
ALTER TABLE handins ALTER key TYPE bytea USING substring(sha256(convert_to(key, 'UTF8')) FROM 1 FOR 16);
CREATE UNIQUE INDEX handins_key ON handins (key) WHERE key IS NOT NULL;
DROP INDEX handins_person;
CREATE INDEX handins_person ON handins (person_id, created_at);

-- What a hand-in earned as graded stands with it, too: marks are read of hand-ins alone.
ALTER TABLE handins ADD earned bigint; -- hundredths; none while it waits
UPDATE handins h SET earned = r.earned FROM results r WHERE r.handin_id = h.id;

-- Results are packed: a first byte says how (0: as it is). Of the traces, those are kept that went wrong.
ALTER TABLE results ALTER result TYPE bytea USING '\x00'::bytea || convert_to(result::text, 'UTF8');
ALTER TABLE results ALTER evidence DROP NOT NULL;
ALTER TABLE results ALTER evidence TYPE bytea USING CASE WHEN evidence::text = '[]' THEN NULL ELSE '\x00'::bytea || convert_to(evidence::text, 'UTF8') END;
ALTER TABLE results RENAME evidence TO kept;

-- A session's cookie holds the secret of its row in tokens, as a program's token does. Sessions from before end.
DROP TABLE sessions;
DELETE FROM tokens WHERE kind = 'session';

-- +goose Down
CREATE TABLE sessions (token text PRIMARY KEY, data bytea NOT NULL, expiry timestamptz NOT NULL);
CREATE INDEX sessions_expiry ON sessions (expiry);
