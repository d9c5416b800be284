CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
CREATE TABLE setting (
	"key" VARCHAR NOT NULL, 
	value VARCHAR NOT NULL, 
	CONSTRAINT pk_setting PRIMARY KEY ("key")
);
CREATE TABLE eye_constant (
	id VARCHAR NOT NULL, 
	value DOUBLE NOT NULL, 
	CONSTRAINT pk_eye_constant PRIMARY KEY (id)
);
CREATE TABLE "mount" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	register_mm DOUBLE, 
	throat_mm DOUBLE, 
	actuation VARCHAR NOT NULL, 
	stop_report VARCHAR NOT NULL, 
	protruding VARCHAR NOT NULL, 
	pin VARCHAR NOT NULL, 
	standard BOOLEAN NOT NULL
);
CREATE TABLE "adapter" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	lens_mount_id INTEGER NOT NULL, 
	body_mount_id INTEGER NOT NULL, 
	nominal_mm DOUBLE, 
	measured_mm DOUBLE, 
	optics BOOLEAN NOT NULL, 
	presses_pin VARCHAR NOT NULL, 
	works_aperture BOOLEAN NOT NULL, 
	foot BOOLEAN NOT NULL, 
	factor DOUBLE, 
	CONSTRAINT fk_adapter_body_mount_id FOREIGN KEY(body_mount_id) REFERENCES mount (id), 
	CONSTRAINT fk_adapter_lens_mount_id FOREIGN KEY(lens_mount_id) REFERENCES mount (id)
);
CREATE TABLE "setup" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	body_id INTEGER NOT NULL, 
	lens_id INTEGER NOT NULL, 
	standard VARCHAR NOT NULL, 
	standard_values JSON NOT NULL, 
	adapter_id INTEGER, zoom_mm DOUBLE, converter_id INTEGER CONSTRAINT fk_setup_converter_id_adapter REFERENCES adapter (id), made_for_body BOOLEAN DEFAULT 0 NOT NULL, 
	CONSTRAINT fk_setup_adapter_id FOREIGN KEY(adapter_id) REFERENCES adapter (id), 
	CONSTRAINT fk_setup_body_id FOREIGN KEY(body_id) REFERENCES body (id) ON DELETE CASCADE, 
	CONSTRAINT fk_setup_lens_id FOREIGN KEY(lens_id) REFERENCES lens (id) ON DELETE CASCADE
);
CREATE TABLE "preset" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	lens_id INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	distance_mm FLOAT NOT NULL, 
	stop DOUBLE NOT NULL, 
	subjects JSON NOT NULL, 
	CONSTRAINT fk_preset_lens_id FOREIGN KEY(lens_id) REFERENCES lens (id) ON DELETE CASCADE
);
CREATE TABLE "outing" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	day DATE NOT NULL
);
CREATE TABLE "slot" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	body_id INTEGER NOT NULL, 
	lens_id INTEGER NOT NULL, 
	number INTEGER NOT NULL, 
	CONSTRAINT fk_slot_body_id FOREIGN KEY(body_id) REFERENCES body (id) ON DELETE CASCADE, 
	CONSTRAINT fk_slot_lens_id FOREIGN KEY(lens_id) REFERENCES lens (id) ON DELETE CASCADE
);
CREATE TABLE "sheet_line" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	body_id INTEGER NOT NULL, 
	line VARCHAR NOT NULL, 
	text VARCHAR NOT NULL, 
	reason VARCHAR NOT NULL, 
	dropped BOOLEAN NOT NULL, 
	CONSTRAINT fk_sheet_line_body_id FOREIGN KEY(body_id) REFERENCES body (id) ON DELETE CASCADE
);
CREATE TABLE "sheet_tick" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	setup_id INTEGER NOT NULL, 
	outing_id INTEGER NOT NULL, 
	line VARCHAR NOT NULL, 
	CONSTRAINT fk_sheet_tick_setup_id FOREIGN KEY(setup_id) REFERENCES setup (id) ON DELETE CASCADE, 
	CONSTRAINT uq_sheet_tick_setup_id UNIQUE (setup_id, outing_id, line)
);
CREATE TABLE "trial" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	round_key VARCHAR NOT NULL, 
	setup_id INTEGER, 
	body_name VARCHAR NOT NULL, 
	lens_name VARCHAR NOT NULL, 
	taken_at DATETIME NOT NULL, 
	exercise VARCHAR NOT NULL, 
	aid VARCHAR NOT NULL, 
	scene VARCHAR NOT NULL, 
	seed INTEGER NOT NULL, 
	stop DOUBLE NOT NULL, 
	error_deg DOUBLE NOT NULL, 
	outcome JSON NOT NULL, 
	z DOUBLE, person VARCHAR DEFAULT '' NOT NULL, 
	CONSTRAINT uq_trial_round_key UNIQUE (round_key)
);
CREATE TABLE "journal" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	label VARCHAR NOT NULL, 
	at DATETIME NOT NULL, 
	changes JSON NOT NULL, 
	undone BOOLEAN NOT NULL, 
	retired BOOLEAN NOT NULL
);
CREATE TABLE "body" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	mount_id INTEGER, 
	data JSON NOT NULL, 
	CONSTRAINT fk_body_mount_id FOREIGN KEY(mount_id) REFERENCES mount (id)
);
CREATE TABLE "lens" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	mount_id INTEGER, 
	data JSON NOT NULL, 
	CONSTRAINT fk_lens_mount_id FOREIGN KEY(mount_id) REFERENCES mount (id)
);
CREATE TABLE "measurement" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	lens_id INTEGER NOT NULL, 
	setup_id INTEGER, 
	kind VARCHAR NOT NULL, 
	data JSON NOT NULL, 
	taken DATE NOT NULL, 
	withdrawn BOOLEAN NOT NULL, 
	CONSTRAINT fk_measurement_lens_id FOREIGN KEY(lens_id) REFERENCES lens (id) ON DELETE CASCADE, 
	CONSTRAINT fk_measurement_setup_id FOREIGN KEY(setup_id) REFERENCES setup (id) ON DELETE CASCADE
);
CREATE TABLE file (
	sha256 VARCHAR NOT NULL, 
	path VARCHAR NOT NULL, 
	media_type VARCHAR NOT NULL, 
	bytes INTEGER NOT NULL, 
	added DATETIME NOT NULL, 
	CONSTRAINT pk_file PRIMARY KEY (sha256)
);
CREATE TABLE job (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	title VARCHAR NOT NULL, 
	state VARCHAR NOT NULL, 
	done INTEGER NOT NULL, 
	total INTEGER NOT NULL, 
	note VARCHAR NOT NULL, 
	leads_to VARCHAR NOT NULL, 
	began DATETIME NOT NULL, 
	ended DATETIME
);
CREATE TABLE attachment (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	data JSON NOT NULL
);
CREATE TABLE device (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	secret_hash VARCHAR NOT NULL, 
	paired DATETIME NOT NULL, 
	seen DATETIME NOT NULL, 
	CONSTRAINT uq_device_secret_hash UNIQUE (secret_hash)
);
CREATE TABLE received (
	"key" VARCHAR NOT NULL, 
	at DATETIME NOT NULL, 
	became VARCHAR NOT NULL, 
	CONSTRAINT pk_received PRIMARY KEY ("key")
);
CREATE TABLE roll (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	data JSON NOT NULL
);
CREATE TABLE picture_map (
	picture_id INTEGER NOT NULL, 
	data JSON NOT NULL, 
	CONSTRAINT pk_picture_map PRIMARY KEY (picture_id)
);
CREATE TABLE picture_import (
	batch VARCHAR NOT NULL, 
	source VARCHAR NOT NULL, 
	at DATETIME NOT NULL, 
	added INTEGER NOT NULL, 
	known INTEGER NOT NULL, 
	refused JSON NOT NULL, 
	ended VARCHAR NOT NULL, 
	CONSTRAINT pk_picture_import PRIMARY KEY (batch)
);
CREATE TABLE sidecar (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	batch VARCHAR NOT NULL, 
	picture_id INTEGER NOT NULL, 
	path VARCHAR NOT NULL, 
	before_sha VARCHAR, 
	after_sha VARCHAR NOT NULL, 
	written DATETIME NOT NULL, 
	state VARCHAR DEFAULT 'written' NOT NULL, 
	CONSTRAINT fk_sidecar_before_sha FOREIGN KEY(before_sha) REFERENCES file (sha256)
);
CREATE TABLE "frame" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	outing_id INTEGER NOT NULL, 
	setup_id INTEGER, 
	body_name VARCHAR NOT NULL, 
	lens_name VARCHAR NOT NULL, 
	focal_mm DOUBLE, 
	blur_mm DOUBLE, 
	stop DOUBLE, 
	distance_mm DOUBLE, 
	angle_deg DOUBLE, 
	near_mm DOUBLE, 
	far_mm DOUBLE, 
	preset_name VARCHAR NOT NULL, 
	taken_at DATETIME NOT NULL, 
	note VARCHAR NOT NULL, 
	shutter_s DOUBLE, 
	iso INTEGER, 
	film_frame VARCHAR NOT NULL, 
	outcome VARCHAR, 
	undated BOOLEAN NOT NULL, 
	roll_id INTEGER, 
	spot JSON, 
	believed_mm DOUBLE, 
	miss_mm DOUBLE, 
	tags JSON NOT NULL, 
	subject VARCHAR NOT NULL, 
	aid VARCHAR NOT NULL, 
	technique VARCHAR NOT NULL, 
	support VARCHAR NOT NULL, 
	light VARCHAR NOT NULL, 
	"instead" VARCHAR NOT NULL, 
	words VARCHAR NOT NULL, 
	CONSTRAINT fk_frame_outing_id FOREIGN KEY(outing_id) REFERENCES outing (id) ON DELETE CASCADE, 
	CONSTRAINT fk_frame_roll_id FOREIGN KEY(roll_id) REFERENCES roll (id) ON DELETE SET NULL
);
CREATE TABLE picture (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	sha256 VARCHAR NOT NULL, 
	name VARCHAR NOT NULL, 
	folder VARCHAR NOT NULL, 
	media_type VARCHAR NOT NULL, 
	bytes INTEGER NOT NULL, 
	width_px INTEGER NOT NULL, 
	height_px INTEGER NOT NULL, 
	taken_at DATETIME, 
	clock_s DOUBLE NOT NULL, 
	exif JSON NOT NULL, 
	batch VARCHAR NOT NULL, 
	outing_id INTEGER, 
	frame_id INTEGER, 
	thumb_sha VARCHAR, 
	preview_sha VARCHAR, 
	original_sha VARCHAR, 
	CONSTRAINT fk_picture_frame_id FOREIGN KEY(frame_id) REFERENCES frame (id) ON DELETE SET NULL, 
	CONSTRAINT fk_picture_original_sha FOREIGN KEY(original_sha) REFERENCES file (sha256), 
	CONSTRAINT fk_picture_outing_id FOREIGN KEY(outing_id) REFERENCES outing (id) ON DELETE SET NULL, 
	CONSTRAINT fk_picture_preview_sha FOREIGN KEY(preview_sha) REFERENCES file (sha256), 
	CONSTRAINT fk_picture_thumb_sha FOREIGN KEY(thumb_sha) REFERENCES file (sha256), 
	CONSTRAINT uq_picture_sha256 UNIQUE (sha256)
);
CREATE TABLE drill (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	person VARCHAR NOT NULL, 
	session VARCHAR NOT NULL, 
	setup_id INTEGER, 
	body_name VARCHAR NOT NULL, 
	lens_name VARCHAR NOT NULL, 
	taken_at DATETIME NOT NULL, 
	data JSON NOT NULL
);
CREATE TABLE kit_change (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	setup_id INTEGER, 
	what VARCHAR NOT NULL, 
	note VARCHAR NOT NULL, 
	made_at DATETIME NOT NULL
);
CREATE TABLE frame_count (
	outing_id INTEGER NOT NULL, 
	outcome VARCHAR NOT NULL, 
	frames INTEGER NOT NULL, 
	CONSTRAINT pk_frame_count PRIMARY KEY (outing_id, outcome)
);
CREATE VIRTUAL TABLE frame_words USING fts5(
        words, content='frame', content_rowid='id', detail=none, columnsize=0,
        tokenize="unicode61 remove_diacritics 0 categories 'L* N* M* P* S* Co'"
    );
CREATE TABLE test_shot (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	series VARCHAR NOT NULL, 
	kind VARCHAR NOT NULL, 
	person VARCHAR DEFAULT '' NOT NULL, 
	setup_id INTEGER, 
	body_name VARCHAR NOT NULL, 
	lens_name VARCHAR NOT NULL, 
	aid VARCHAR DEFAULT '' NOT NULL, 
	taken_at DATETIME NOT NULL, 
	made_up BOOLEAN DEFAULT 0 NOT NULL, 
	preview_sha VARCHAR, 
	data JSON NOT NULL, 
	CONSTRAINT fk_test_shot_preview_sha FOREIGN KEY(preview_sha) REFERENCES file (sha256)
);
CREATE INDEX ix_adapter_body_mount_id ON adapter (body_mount_id);
CREATE INDEX ix_adapter_lens_mount_id ON adapter (lens_mount_id);
CREATE INDEX ix_drill_session ON drill (session);
CREATE INDEX ix_frame_lens_name ON frame (lens_name);
CREATE INDEX ix_frame_outing_taken ON frame (outing_id, taken_at);
CREATE INDEX ix_frame_roll_id ON frame (roll_id);
CREATE INDEX ix_frame_search ON frame (taken_at, id, outing_id, outcome, lens_name, stop, distance_mm, words);
CREATE INDEX ix_frame_tally ON frame (outing_id, outcome);
CREATE INDEX ix_kit_change_setup_id ON kit_change (setup_id);
CREATE INDEX ix_measurement_lens_id ON measurement (lens_id);
CREATE INDEX ix_measurement_of ON measurement (lens_id, setup_id, kind);
CREATE INDEX ix_measurement_setup_id ON measurement (setup_id);
CREATE INDEX ix_picture_batch ON picture (batch);
CREATE INDEX ix_picture_frame_id ON picture (frame_id);
CREATE INDEX ix_picture_outing_id ON picture (outing_id);
CREATE INDEX ix_preset_lens_id ON preset (lens_id);
CREATE INDEX ix_setup_body_id ON setup (body_id);
CREATE INDEX ix_setup_lens_id ON setup (lens_id);
CREATE INDEX ix_sheet_line_body_id ON sheet_line (body_id);
CREATE INDEX ix_sheet_tick_setup_id ON sheet_tick (setup_id);
CREATE INDEX ix_sidecar_batch ON sidecar (batch);
CREATE INDEX ix_slot_body_id ON slot (body_id);
CREATE INDEX ix_slot_lens_id ON slot (lens_id);
CREATE INDEX ix_test_shot_series ON test_shot (series);
CREATE INDEX ix_test_shot_setup_id ON test_shot (setup_id);
CREATE INDEX ix_trial_setup_id ON trial (setup_id);
INSERT INTO "alembic_version" VALUES('0013');
INSERT INTO "mount" VALUES(1,'M42×1',45.46,42.0,'mechanical','none','not known','not known',1);
INSERT INTO "mount" VALUES(2,'M39×26 tpi',28.8,39.0,'none','none','not known','no',1);
INSERT INTO "mount" VALUES(3,'T2',55.0,42.0,'none','none','no','no',1);
INSERT INTO "mount" VALUES(4,'C',17.526,25.4,'none','none','not known','no',1);
CREATE TRIGGER frame_came AFTER INSERT ON frame BEGIN 
    INSERT INTO frame_count VALUES (NEW.outing_id, coalesce(NEW.outcome, ''), 1)
    ON CONFLICT (outing_id, outcome) DO UPDATE SET frames = frames + 1;
 END;
CREATE TRIGGER frame_went AFTER DELETE ON frame BEGIN 
    UPDATE frame_count SET frames = frames - 1
    WHERE outing_id = OLD.outing_id AND outcome = coalesce(OLD.outcome, '');
 END;
CREATE TRIGGER frame_marked AFTER UPDATE OF outing_id, outcome ON frame
    WHEN OLD.outing_id IS NOT NEW.outing_id OR OLD.outcome IS NOT NEW.outcome BEGIN 
    UPDATE frame_count SET frames = frames - 1
    WHERE outing_id = OLD.outing_id AND outcome = coalesce(OLD.outcome, '');
 
    INSERT INTO frame_count VALUES (NEW.outing_id, coalesce(NEW.outcome, ''), 1)
    ON CONFLICT (outing_id, outcome) DO UPDATE SET frames = frames + 1;
 END;
CREATE TRIGGER frame_words_came AFTER INSERT ON frame BEGIN INSERT INTO frame_words (rowid, words) VALUES (NEW.id, NEW.words); END;
CREATE TRIGGER frame_words_went AFTER DELETE ON frame BEGIN INSERT INTO frame_words (frame_words, rowid, words) VALUES ('delete', OLD.id, OLD.words); END;
CREATE TRIGGER frame_words_changed AFTER UPDATE OF words ON frame
    WHEN OLD.words IS NOT NEW.words BEGIN INSERT INTO frame_words (frame_words, rowid, words) VALUES ('delete', OLD.id, OLD.words); INSERT INTO frame_words (rowid, words) VALUES (NEW.id, NEW.words); END;
