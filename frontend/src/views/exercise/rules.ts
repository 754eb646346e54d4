/** What the rule about order comes to with this reference. */
export const ORDER_COMES_TO: Record<string, string> = {
  ignore: "It has no ORDER BY: any order passes.",
  required: "It orders: order counts, ties in any order.",
  as_listed: "",
};
