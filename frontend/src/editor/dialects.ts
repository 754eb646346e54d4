import { SQLDialect, SQLite } from "@codemirror/lang-sql";
import { inject, type InjectionKey, provide, type Ref, ref } from "vue";

/** How each engine's texts are cut and coloured. Words that are names in lessons (name, level, day) are no keywords. */
const KEYWORDS = `${SQLite.spec.keywords ?? ""} returning`;
const TYPES = SQLite.spec.types ?? "";
const LIKE_POSTGRESQL = {
  keywords: `${KEYWORDS} ilike similar lateral filter over partition window exclude nulls materialized only unlogged truncate merge`,
  types: `${TYPES} serial bigserial timestamptz interval uuid json jsonb bytea`,
  operatorChars: "+-*/<>=~!@#%^&|`?",
  doubleDollarQuotedStrings: true,
  specialVar: "",
};

const OF_SQLITE = SQLDialect.define({ ...SQLite.spec, keywords: KEYWORDS });
const DIALECTS: Record<string, SQLDialect> = {
  postgresql: SQLDialect.define(LIKE_POSTGRESQL),
  duckdb: SQLDialect.define({
    ...LIKE_POSTGRESQL, keywords: `${LIKE_POSTGRESQL.keywords} qualify asof semi anti positional sample pivot unpivot summarize`,
  }),
  mariadb: SQLDialect.define({
    keywords: `${KEYWORDS} rlike xor div mod straight_join truncate`, types: TYPES, operatorChars: "*+-%<>!=&|^", specialVar: "@?",
    doubleQuotedStrings: true, hashComments: true, spaceAfterDashes: true, backslashEscapes: true, identifierQuotes: "`",
  }),
  tsql: SQLDialect.define({
    keywords: `${KEYWORDS} top apply percent offset`, types: TYPES, operatorChars: "*+-%<>!=^&|/", specialVar: "@", identifierQuotes: "\"[",
  }),
  oracle: SQLDialect.define({
    keywords: `${KEYWORDS} minus rownum prior nocycle`, types: `${TYPES} varchar2 number`, operatorChars: "*/+-%<>!=~", plsqlQuotingMechanism: true,
  }),
  db2: SQLDialect.define({ keywords: KEYWORDS, types: TYPES }),
};

/** The dialect of an engine, by its name in packs. */
export function dialectOf(engine: string): SQLDialect {
  return DIALECTS[engine] ?? OF_SQLITE;
}

/** What stands around a name in a dialect that is no plain word. */
export function quoteOf(dialect: SQLDialect): string {
  return dialect.spec.identifierQuotes?.includes("`") && dialect.spec.doubleQuotedStrings ? "`" : "\"";
}

const ENGINE: InjectionKey<Readonly<Ref<string>>> = Symbol("the engine of the texts below");

/** Says in which engine's dialect the texts are that a view shows. */
export function provideEngine(engine: Readonly<Ref<string>>): void {
  provide(ENGINE, engine);
}

/** The engine in whose dialect texts are here. */
export function useEngine(): Readonly<Ref<string>> {
  return inject(ENGINE, () => ref("sqlite"), true);
}
