--
-- PostgreSQL database dump
--

\restrict zuEm7BxHVzZr3VehYdgeeeECzJBiFPDy7D4gTrzJ4FaA74xhRbpd0GDVm61y3c7

-- Dumped from database version 15.20 (Debian 15.20-0+deb12u1)
-- Dumped by pg_dump version 15.20 (Debian 15.20-0+deb12u1)

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
-- Name: alps; Type: SCHEMA; Schema: -; Owner: postgres
--

CREATE SCHEMA alps;


ALTER SCHEMA alps OWNER TO postgres;

--
-- Name: metres; Type: DOMAIN; Schema: public; Owner: postgres
--

CREATE DOMAIN public.metres AS numeric(6,2)
	CONSTRAINT metres_check CHECK ((VALUE >= (0)::numeric));


ALTER DOMAIN public.metres OWNER TO postgres;

--
-- Name: spot; Type: TYPE; Schema: public; Owner: postgres
--

CREATE TYPE public.spot AS (
	x integer,
	y integer
);


ALTER TYPE public.spot OWNER TO postgres;

--
-- Name: tone; Type: TYPE; Schema: public; Owner: postgres
--

CREATE TYPE public.tone AS ENUM (
    'calm',
    'wild'
);


ALTER TYPE public.tone OWNER TO postgres;

--
-- Name: f(); Type: FUNCTION; Schema: public; Owner: postgres
--

CREATE FUNCTION public.f() RETURNS trigger
    LANGUAGE plpgsql
    AS $$ BEGIN NEW.name := upper(NEW.name); RETURN NEW; END; $$;


ALTER FUNCTION public.f() OWNER TO postgres;

SET default_tablespace = '';

SET default_table_access_method = heap;

--
-- Name: regions; Type: TABLE; Schema: alps; Owner: postgres
--

CREATE TABLE alps.regions (
    code character(3) NOT NULL,
    name character varying(40) NOT NULL
);


ALTER TABLE alps.regions OWNER TO postgres;

--
-- Name: huts; Type: TABLE; Schema: public; Owner: postgres
--

CREATE TABLE public.huts (
    id integer NOT NULL,
    serial_no integer NOT NULL,
    name text DEFAULT 'hut'::text NOT NULL,
    code character(3),
    beds smallint DEFAULT 4,
    price numeric(8,2),
    weight double precision,
    rate real,
    big bigint,
    open boolean DEFAULT true NOT NULL,
    opened date,
    seen timestamp without time zone DEFAULT now(),
    at timestamp with time zone,
    clock time without time zone,
    stay interval,
    tone public.tone,
    height public.metres,
    tags text[],
    grid integer[],
    spot public.spot,
    doc jsonb,
    doc2 json,
    raw bytea,
    uid uuid,
    addr inet,
    bits bit(3),
    vbits bit varying(5),
    rng int4range,
    twice numeric GENERATED ALWAYS AS ((price * (2)::numeric)) STORED,
    "Odd name" text,
    "order" integer,
    CONSTRAINT huts_beds_check CHECK ((beds > 0))
);


ALTER TABLE public.huts OWNER TO postgres;

--
-- Name: TABLE huts; Type: COMMENT; Schema: public; Owner: postgres
--

COMMENT ON TABLE public.huts IS 'Where one''s asleep';


--
-- Name: COLUMN huts.name; Type: COMMENT; Schema: public; Owner: postgres
--

COMMENT ON COLUMN public.huts.name IS 'a name';


--
-- Name: big; Type: VIEW; Schema: public; Owner: postgres
--

CREATE VIEW public.big AS
 SELECT h.name,
    r.name AS region
   FROM (public.huts h
     LEFT JOIN alps.regions r USING (code))
  WHERE (h.beds > 3);


ALTER TABLE public.big OWNER TO postgres;

--
-- Name: huts_id_seq; Type: SEQUENCE; Schema: public; Owner: postgres
--

ALTER TABLE public.huts ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.huts_id_seq
    START WITH 10
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);


--
-- Name: huts_serial_no_seq; Type: SEQUENCE; Schema: public; Owner: postgres
--

CREATE SEQUENCE public.huts_serial_no_seq
    AS integer
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1;


ALTER TABLE public.huts_serial_no_seq OWNER TO postgres;

--
-- Name: huts_serial_no_seq; Type: SEQUENCE OWNED BY; Schema: public; Owner: postgres
--

ALTER SEQUENCE public.huts_serial_no_seq OWNED BY public.huts.serial_no;


--
-- Name: lonely; Type: SEQUENCE; Schema: public; Owner: postgres
--

CREATE SEQUENCE public.lonely
    START WITH 5
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1;


ALTER TABLE public.lonely OWNER TO postgres;

--
-- Name: mv; Type: MATERIALIZED VIEW; Schema: public; Owner: postgres
--

CREATE MATERIALIZED VIEW public.mv AS
 SELECT count(*) AS n
   FROM public.huts
  WITH NO DATA;


ALTER TABLE public.mv OWNER TO postgres;

--
-- Name: part; Type: TABLE; Schema: public; Owner: postgres
--

CREATE TABLE public.part (
    id integer,
    y integer
)
PARTITION BY RANGE (y);


ALTER TABLE public.part OWNER TO postgres;

--
-- Name: part1; Type: TABLE; Schema: public; Owner: postgres
--

CREATE TABLE public.part1 (
    id integer,
    y integer
);


ALTER TABLE public.part1 OWNER TO postgres;

--
-- Name: part1; Type: TABLE ATTACH; Schema: public; Owner: postgres
--

ALTER TABLE ONLY public.part ATTACH PARTITION public.part1 FOR VALUES FROM (1) TO (10);


--
-- Name: huts serial_no; Type: DEFAULT; Schema: public; Owner: postgres
--

ALTER TABLE ONLY public.huts ALTER COLUMN serial_no SET DEFAULT nextval('public.huts_serial_no_seq'::regclass);


--
-- Data for Name: regions; Type: TABLE DATA; Schema: alps; Owner: postgres
--

INSERT INTO alps.regions VALUES ('NOR', 'North');
INSERT INTO alps.regions VALUES ('SO ', 'South');


--
-- Data for Name: huts; Type: TABLE DATA; Schema: public; Owner: postgres
--

INSERT INTO public.huts OVERRIDING SYSTEM VALUE VALUES (10, 1, 'Kar''s; -- \ tab	x', 'NOR', 12, 12.50, 1e+100, 1.1, 9223372036854775807, true, '2024-05-01', '2024-05-01 10:00:00.123456', '2024-05-01 08:00:00+00', '10:00:00', '1 year 2 mons 3 days 04:05:06', 'wild', 12.34, '{a,"b,c",NULL,"\"q\""}', '{{1,2},{3,4}}', '(1,2)', '{"a": [1, null]}', '{"b":  1}', '\xdeadbeef', 'a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11', '10.0.0.1', B'101', B'1', '[1,5)', DEFAULT, 'line1
line2', 3);
INSERT INTO public.huts OVERRIDING SYSTEM VALUE VALUES (11, 2, '', NULL, NULL, NULL, 'NaN', 'Infinity', NULL, false, 'infinity', NULL, NULL, NULL, NULL, NULL, NULL, '{}', NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, DEFAULT, '', NULL);


--
-- Data for Name: part1; Type: TABLE DATA; Schema: public; Owner: postgres
--

INSERT INTO public.part1 VALUES (1, 5);


--
-- Name: huts_id_seq; Type: SEQUENCE SET; Schema: public; Owner: postgres
--

SELECT pg_catalog.setval('public.huts_id_seq', 11, true);


--
-- Name: huts_serial_no_seq; Type: SEQUENCE SET; Schema: public; Owner: postgres
--

SELECT pg_catalog.setval('public.huts_serial_no_seq', 2, true);


--
-- Name: lonely; Type: SEQUENCE SET; Schema: public; Owner: postgres
--

SELECT pg_catalog.setval('public.lonely', 5, false);


--
-- Name: regions regions_name_key; Type: CONSTRAINT; Schema: alps; Owner: postgres
--

ALTER TABLE ONLY alps.regions
    ADD CONSTRAINT regions_name_key UNIQUE (name);


--
-- Name: regions regions_pkey; Type: CONSTRAINT; Schema: alps; Owner: postgres
--

ALTER TABLE ONLY alps.regions
    ADD CONSTRAINT regions_pkey PRIMARY KEY (code);


--
-- Name: huts huts_pkey; Type: CONSTRAINT; Schema: public; Owner: postgres
--

ALTER TABLE ONLY public.huts
    ADD CONSTRAINT huts_pkey PRIMARY KEY (id);


--
-- Name: by_name; Type: INDEX; Schema: public; Owner: postgres
--

CREATE INDEX by_name ON public.huts USING btree (lower(name));


--
-- Name: u; Type: INDEX; Schema: public; Owner: postgres
--

CREATE UNIQUE INDEX u ON public.huts USING btree (serial_no) WHERE open;


--
-- Name: huts t; Type: TRIGGER; Schema: public; Owner: postgres
--

CREATE TRIGGER t BEFORE INSERT ON public.huts FOR EACH ROW EXECUTE FUNCTION public.f();


--
-- Name: huts huts_code_fkey; Type: FK CONSTRAINT; Schema: public; Owner: postgres
--

ALTER TABLE ONLY public.huts
    ADD CONSTRAINT huts_code_fkey FOREIGN KEY (code) REFERENCES alps.regions(code) ON UPDATE CASCADE ON DELETE SET NULL;


--
-- Name: mv; Type: MATERIALIZED VIEW DATA; Schema: public; Owner: postgres
--

REFRESH MATERIALIZED VIEW public.mv;


--
-- PostgreSQL database dump complete
--

\unrestrict zuEm7BxHVzZr3VehYdgeeeECzJBiFPDy7D4gTrzJ4FaA74xhRbpd0GDVm61y3c7

