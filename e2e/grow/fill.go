package main

import (
	"context"
	"strings"

	"github.com/jackc/pgx/v5"
)

func replace(text, from, to string) string { return strings.ReplaceAll(text, from, to) }

// people makes classes that work on what the demo's class works on, each with fifty learners, and an instructor who teaches all of them.
func people(ctx context.Context, db *pgx.Conn) error {
	for _, sql := range []string{
		`INSERT INTO classes (name) SELECT 'Grown ' || n FROM generate_series(0, $1 - 1) n`,
		`INSERT INTO people (login, name, role, password_hash)
			SELECT 'grow-' || to_char(n, 'FM00000'), 'Learner ' || n, 'learner', (SELECT password_hash FROM people WHERE login = 'ana')
			FROM generate_series(0, $1 - 1) n`,
	} {
		n := classes
		if strings.Contains(sql, "INTO people") {
			n = learners
		}
		if _, err := db.Exec(ctx, sql, n); err != nil {
			return err
		}
	}
	_, err := db.Exec(ctx, `
		INSERT INTO people (login, name, role, password_hash) SELECT 'grow-teacher', 'Teacher', 'instructor', password_hash FROM people
		WHERE login = 'ana';
		INSERT INTO enrolments (class_id, person_id)
			SELECT c.id, p.id FROM people p JOIN classes c ON c.name = 'Grown ' || (substr(p.login, 6)::int / 50) WHERE p.login ~ '^grow-[0-9]+$'
			UNION ALL SELECT c.id, p.id FROM classes c, people p WHERE p.login = 'grow-teacher' AND c.name LIKE 'Grown %';
		INSERT INTO assignments (class_id, exercise, revision_id, position, published)
			SELECT c.id, a.exercise, a.revision_id, a.position, TRUE FROM classes c, assignments a WHERE c.name LIKE 'Grown %' AND a.class_id = 1;
		INSERT INTO audit (class_id, action, subject) SELECT c.id, 'change assignment', 'mist-hold-in' FROM classes c, generate_series(1, 200)
		WHERE c.name LIKE 'Grown %';`)
	return err
}

// handins adds some to those that are there: each learner, but the one whose handing in is measured, hands in to each exercise
// of their class in turn, what the demo's learners have handed in, with its result.
func handins(ctx context.Context, db *pgx.Conn, from, some int) error {
	_, err := db.Exec(ctx, `
		CREATE TEMP TABLE IF NOT EXISTS models AS SELECT a.exercise, row_number() OVER (PARTITION BY a.exercise
		ORDER BY h.id) - 1 AS n, count(*) OVER (PARTITION BY a.exercise) AS all,
			h.revision_id, h.file, h.text, r.earned, r.points, r.result, r.kept
			FROM handins h JOIN assignments a ON a.id = h.assignment_id JOIN results r ON r.handin_id = h.id WHERE a.class_id = 1;
		CREATE TEMP TABLE IF NOT EXISTS places AS SELECT row_number() OVER (ORDER BY a.exercise,
		p.id) - 1 AS n, a.id AS assignment_id, a.exercise, p.id AS person_id
			FROM people p JOIN enrolments e ON e.person_id = p.id JOIN assignments a ON a.class_id = e.class_id WHERE p.login ~ '^grow-[0-9]+$'
			AND p.login <> 'grow-00001' AND a.exercise IN (SELECT exercise FROM models)`)
	if err != nil {
		return err
	}
	_, err = db.Exec(ctx, `
		WITH turns AS (SELECT $1::bigint + g AS turn FROM generate_series(0, $2::bigint - 1) g),
		them AS (SELECT t.turn, p.*, m.revision_id, m.file, m.text, m.earned, m.points, m.result, m.kept, 1 + t.turn / (SELECT count(*)
		FROM places) AS number
			FROM turns t JOIN places p ON p.n = t.turn % (SELECT count(*) FROM places) JOIN models m ON m.exercise = p.exercise
			AND m.n = t.turn % m.all),
		made AS (INSERT INTO handins (assignment_id, revision_id, person_id, number, file, text, key, earned, created_at)
			SELECT assignment_id, revision_id, person_id, number, file, text, substring(sha256(turn::text::bytea)
			FROM 1 FOR 16), earned, now() - interval '1 day' FROM them RETURNING id, key, assignment_id, person_id),
		put AS (INSERT INTO results (handin_id, revision_id, earned, points, result, kept)
			SELECT made.id, revision_id, earned, points, result, kept FROM made JOIN them ON made.key = substring(sha256(them.turn::text::bytea)
			FROM 1 FOR 16))
		INSERT INTO tallies AS t (assignment_id, person_id, handins, graded) SELECT assignment_id, person_id, count(*), count(*) FROM made
		GROUP BY 1, 2
		ON CONFLICT (assignment_id, person_id) DO UPDATE SET handins = t.handins + excluded.handins,
		graded = t.graded + excluded.graded`, from, some)
	return err
}
