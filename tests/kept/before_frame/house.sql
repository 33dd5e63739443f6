--
-- PostgreSQL database dump
--


-- Dumped from database version 15.18 (Debian 15.18-0+deb12u1)
-- Dumped by pg_dump version 15.18 (Debian 15.18-0+deb12u1)

SET statement_timeout = 0;
SET lock_timeout = 0;
SET idle_in_transaction_session_timeout = 0;
SET client_encoding = 'UTF8';
SET standard_conforming_strings = on;
SELECT pg_catalog.set_config('search_path', '', false);
SET check_function_bodies = false;
SET xmloption = content;
SET client_min_messages = warning;
SET row_security = off;

--
-- Data for Name: decisions; Type: TABLE DATA; Schema: public; Owner: -
--

SET SESSION AUTHORIZATION DEFAULT;

ALTER TABLE public.decisions DISABLE TRIGGER ALL;

COPY public.decisions (id, job_id, parent_id, label, document, created) FROM stdin;
1	1	\N	Start	{"fit": {"up": null, "unit": null, "datum": [0.0, 0.0, 0.0], "sources": {}}, "mend": {"flipped": []}, "ship": {"target": {"up": null, "unit": null, "group": null, "format": "glb"}}, "sort": {"rules": [], "keep_source": true}, "facet": {"chord": {"kind": "absolute", "metres": 0.0005}, "parts": {}, "degrees": 20.0, "segments": null}, "receive": {"also": [], "drawn": {"rows": [], "close": 0.0, "nozzle": 0.0, "thicken": false}, "region": null, "choices": [], "without": [], "without_copies": false}}	2026-11-26 22:40:27.334708+00
2	1	1	Fine bolt	{"fit": {"up": null, "unit": null, "datum": [0.0, 0.0, 0.0], "sources": {}}, "mend": {"flipped": []}, "ship": {"target": {"up": null, "unit": null, "group": null, "format": "glb"}}, "sort": {"rules": [], "keep_source": true}, "facet": {"chord": {"kind": "absolute", "metres": 0.0005}, "parts": {"Bolt (2)": {"chord": null, "degrees": 5.0}}, "degrees": 20.0, "segments": null}, "receive": {"also": [], "drawn": {"rows": [], "close": 0.0, "nozzle": 0.0, "thicken": false}, "region": null, "choices": [], "without": [], "without_copies": false}}	2026-11-26 22:40:28.803386+00
3	1	2	Turned	{"fit": {"up": null, "unit": null, "datum": [0.0, 0.0, 0.0], "sources": {}}, "mend": {"flipped": ["Bolt"]}, "ship": {"target": {"up": null, "unit": null, "group": null, "format": "glb"}}, "sort": {"rules": [], "keep_source": true}, "facet": {"chord": {"kind": "absolute", "metres": 0.0005}, "parts": {"Bolt (2)": {"chord": null, "degrees": 5.0}}, "degrees": 20.0, "segments": null}, "receive": {"also": [], "drawn": {"rows": [], "close": 0.0, "nozzle": 0.0, "thicken": false}, "region": null, "choices": [], "without": [], "without_copies": false}}	2026-11-26 22:40:28.849872+00
4	1	3	Rule	{"fit": {"up": null, "unit": null, "datum": [0.0, 0.0, 0.0], "sources": {}}, "mend": {"flipped": ["Bolt"]}, "ship": {"target": {"up": null, "unit": null, "group": null, "format": "glb"}}, "sort": {"rules": [{"by": "part", "match": "Plate", "material": "brass"}], "keep_source": true}, "facet": {"chord": {"kind": "absolute", "metres": 0.0005}, "parts": {"Bolt (2)": {"chord": null, "degrees": 5.0}}, "degrees": 20.0, "segments": null}, "receive": {"also": [], "drawn": {"rows": [], "close": 0.0, "nozzle": 0.0, "thicken": false}, "region": null, "choices": [], "without": [], "without_copies": false}}	2026-11-26 22:40:28.885139+00
\.


ALTER TABLE public.decisions ENABLE TRIGGER ALL;

--
-- Data for Name: jobs; Type: TABLE DATA; Schema: public; Owner: -
--

ALTER TABLE public.jobs DISABLE TRIGGER ALL;

COPY public.jobs (id, name, created, head_id) FROM stdin;
1	Kept rig	2026-11-26 22:40:27.331449+00	4
\.


ALTER TABLE public.jobs ENABLE TRIGGER ALL;

--
-- Data for Name: climbs; Type: TABLE DATA; Schema: public; Owner: -
--

ALTER TABLE public.climbs DISABLE TRIGGER ALL;

COPY public.climbs (id, job_id, decisions_id, state, keys, created) FROM stdin;
1	1	1	done	["7f1ee7316cdd457fbd680b7e52667a78571ee80ca346e3224c71a75e83bee2cd", "167e93546e543b381c171bf6edee5fbb13ebaec6b9bc7d3a58105c247121fccc", "ae5ebaef4ab7167f192c081cb9b023b6cc732f71f10d75624091772bc87c0e3b"]	2026-11-26 22:40:28.546584+00
2	1	2	cancelled	["ccc17b57dac0403dd18f89912dad3a9651f1242504d453111e95faf54f80083b"]	2026-11-26 22:40:28.813946+00
3	1	3	cancelled	["ccc17b57dac0403dd18f89912dad3a9651f1242504d453111e95faf54f80083b"]	2026-11-26 22:40:28.856815+00
4	1	4	done	["ccc17b57dac0403dd18f89912dad3a9651f1242504d453111e95faf54f80083b"]	2026-11-26 22:40:28.895618+00
\.


ALTER TABLE public.climbs ENABLE TRIGGER ALL;

--
-- Data for Name: deliveries; Type: TABLE DATA; Schema: public; Owner: -
--

ALTER TABLE public.deliveries DISABLE TRIGGER ALL;

COPY public.deliveries (id, job_id, decisions_id, target, state, stage, message, files, bundle, bundle_bytes, receipt, created, sources) FROM stdin;
\.


ALTER TABLE public.deliveries ENABLE TRIGGER ALL;

--
-- Data for Name: sources; Type: TABLE DATA; Schema: public; Owner: -
--

ALTER TABLE public.sources DISABLE TRIGGER ALL;

COPY public.sources (id, job_id, name, ref) FROM stdin;
1	1	rig.step	rig
\.


ALTER TABLE public.sources ENABLE TRIGGER ALL;

--
-- Data for Name: revisions; Type: TABLE DATA; Schema: public; Owner: -
--

ALTER TABLE public.revisions DISABLE TRIGGER ALL;

COPY public.revisions (id, source_id, files, created, state, stage, count, model_key, facts, root, outline_key) FROM stdin;
1	1	[{"name": "rig.step", "bytes": 39505, "sha256": "9fc1d9076777283a25a10c5fbe3c54d7492b6be56f6760b06f723cc0167a095e"}]	2026-11-26 22:40:27.344089+00	ready		0	f923799df9cec457986b5eeb4f54eb17f164b5cee2457441bb58721b4db9b7db	{"up": "z", "size": [0.122, 0.06, 0.03], "unit": "mm", "bytes": 39505, "clean": false, "parts": 3, "place": null, "format": "STEP", "hidden": [], "layers": 2, "metres": 0.001, "middle": [0.059000000000000004, 0.0, 0.015], "schema": "AP242", "writer": "kernel 8.0, Demo generator", "colours": 2, "storeys": 0, "leftovers": {}, "placements": 3}	\N	\N
\.


ALTER TABLE public.revisions ENABLE TRIGGER ALL;

--
-- Data for Name: findings; Type: TABLE DATA; Schema: public; Owner: -
--

ALTER TABLE public.findings DISABLE TRIGGER ALL;

COPY public.findings (id, revision_id, code, severity, "where", message, remedy, why, parts, offers) FROM stdin;
\.


ALTER TABLE public.findings ENABLE TRIGGER ALL;

--
-- Name: climbs_id_seq; Type: SEQUENCE SET; Schema: public; Owner: -
--

SELECT pg_catalog.setval('public.climbs_id_seq', 4, true);


--
-- Name: decisions_id_seq; Type: SEQUENCE SET; Schema: public; Owner: -
--

SELECT pg_catalog.setval('public.decisions_id_seq', 4, true);


--
-- Name: deliveries_id_seq; Type: SEQUENCE SET; Schema: public; Owner: -
--

SELECT pg_catalog.setval('public.deliveries_id_seq', 1, false);


--
-- Name: findings_id_seq; Type: SEQUENCE SET; Schema: public; Owner: -
--

SELECT pg_catalog.setval('public.findings_id_seq', 1, false);


--
-- Name: jobs_id_seq; Type: SEQUENCE SET; Schema: public; Owner: -
--

SELECT pg_catalog.setval('public.jobs_id_seq', 1, true);


--
-- Name: revisions_id_seq; Type: SEQUENCE SET; Schema: public; Owner: -
--

SELECT pg_catalog.setval('public.revisions_id_seq', 1, true);


--
-- Name: sources_id_seq; Type: SEQUENCE SET; Schema: public; Owner: -
--

SELECT pg_catalog.setval('public.sources_id_seq', 1, true);


--
-- PostgreSQL database dump complete
--


