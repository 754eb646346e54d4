import { type Ref, ref, watch } from "vue";
import { type LocationQuery, type Router, useRoute, useRouter } from "vue-router";

/** What waits to be written into the address: several values that change at once are one change of it. */
let waiting: Record<string, string | undefined> = {};

/**
 * A choice on a page that stands in its address: a reload, Back and a link bring it again.
 *
 * Where it is `otherwise`, the address does not say it. `allowed` are the values that it may have:
 * an address that says another is read as if it said none.
 */
export function useInAddress(name: string, otherwise: string): Ref<string>;
export function useInAddress<Value extends string>(
  name: string,
  otherwise: Value,
  allowed: readonly Value[],
): Ref<Value>;
export function useInAddress<Value extends string>(
  name: string,
  otherwise: Value,
  allowed?: readonly Value[],
): Ref<Value> {
  const route = useRoute();
  const router = useRouter();
  const own = route.name;

  function read(query: LocationQuery): Value {
    const said = query[name];
    if (typeof said !== "string" || (allowed && !allowed.includes(said as Value))) return otherwise;
    return said as Value;
  }

  const value = ref(read(route.query)) as Ref<Value>;
  watch(
    () => route.query,
    (query) => {
      if (route.name === own && !(name in waiting)) value.value = read(query);
    },
  );
  watch(
    value,
    (next) => {
      if (route.name === own && read(route.query) !== next) write(router, name, next === otherwise ? undefined : next);
    },
    { flush: "sync" },
  );
  return value;
}

function write(router: Router, name: string, value: string | undefined): void {
  const isFirst = !Object.keys(waiting).length;
  waiting = { ...waiting, [name]: value };
  if (!isFirst) return;
  queueMicrotask(() => {
    const { path, query, hash } = router.currentRoute.value;
    const next = Object.fromEntries(
      Object.entries({ ...query, ...waiting }).filter(([, one]) => one !== undefined),
    );
    void router.replace({ path, query: next, hash }).finally(() => {
      waiting = {};
    });
  });
}
