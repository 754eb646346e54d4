<script setup lang="ts">
import { computed } from "vue";

import { counted } from "../../composables/words";
import { DELIMITERS, ENCODINGS } from "../../api/terms";
import { FORMS, newColumn, type PlanTable, TYPE_CHOICES } from "./plan";

/** One table in the making: its columns, types, keys and constraints, corrected before it is made. */
const props = defineProps<{ targets: string[]; ofSample: string }>();
const table = defineModel<PlanTable>({ required: true });
const emit = defineEmits<{ remove: []; read: [] }>();

const fromFile = computed(() => Boolean(table.value.file));
const hasForms = computed(() => fromFile.value && !props.ofSample);

const ON_DELETE = ["NO ACTION", "RESTRICT", "CASCADE", "SET NULL", "SET DEFAULT"];

function add(): void {
  table.value.columns.push(newColumn(`column_${table.value.columns.length + 1}`));
}

function sized(type: string): boolean {
  return type === "decimal" || type === "text";
}
</script>

<template>
  <section class="plan" :aria-label="`table ${table.name}`">
    <p class="head">
      <label>table <ElInput v-model="table.name" class="name" spellcheck="false" /></label>
      <small v-if="ofSample && fromFile">was {{ table.file }}</small>
      <template v-else-if="fromFile">
        <small>{{ table.file }}, {{ table.whole ? counted(table.rows, "row")
          : `types from the first ${table.rows.toLocaleString("en")} rows` }}</small>
        <span class="labelled">delimiter <ElSelect v-model="table.format.delimiter" aria-label="delimiter" @change="emit('read')">
          <ElOption v-for="one in DELIMITERS" :key="one.value" :value="one.value" :label="one.says" />
        </ElSelect></span>
        <span class="labelled">encoding <ElSelect v-model="table.format.encoding" aria-label="encoding" @change="emit('read')">
          <ElOption v-for="one in ENCODINGS" :key="one" :value="one" :label="one" />
        </ElSelect></span>
        <label>NULL is written <ElInput v-model.lazy="table.format.null_marker" class="short" placeholder="empty" spellcheck="false" @change="emit('read')" /></label>
      </template>
      <ElButton link @click="emit('remove')">leave this table out</ElButton>
    </p>
    <div class="wide">
      <table>
        <thead>
          <tr>
            <th scope="col" class="take">{{ fromFile ? "take" : "–" }}</th>
            <th v-if="fromFile" scope="col">{{ ofSample ? "was" : "in the file" }}</th>
            <th scope="col" class="w-name">column</th>
            <th scope="col" class="w-kind">type</th>
            <th scope="col" :class="hasForms ? 'w-form' : 'w-size'">{{ hasForms ? "written as" : "size" }}</th>
            <th scope="col" class="w-tick">key</th>
            <th scope="col" class="w-type">not NULL</th>
            <th scope="col" class="w-unique">unique</th>
            <th scope="col" class="w-name">refers to</th>
            <th scope="col" class="w-type">default</th>
            <th scope="col">check</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(column, at) in table.columns" :key="at" :class="{ out: !column.taken }">
            <td><ElCheckbox v-if="column.source" v-model="column.taken"><span class="only-read-aloud">take {{ column.source }}</span></ElCheckbox><ElButton v-else link @click="table.columns.splice(at, 1)">remove<span class="only-read-aloud"> {{
                  column.name }}</span></ElButton></td>
            <td v-if="fromFile" class="source">{{ column.source || "–" }}<small
              :data-hint="column.examples.join(' · ')">{{ column.examples.join(" · ") }}{{ column.nulls
                ? `, ${column.nulls.toLocaleString("en")} NULL` : "" }}</small></td>
            <td><ElInput v-model="column.name" class="name" :aria-label="`name of column ${at + 1}`" spellcheck="false" :disabled="!column.taken" /></td>
            <td><ElSelect v-model="column.type" :aria-label="`type of ${column.name}`" :disabled="!column.taken" @change="column.form = ''">
              <ElOption v-for="one in TYPE_CHOICES" :key="one.value" :value="one.value" :label="one.says" />
            </ElSelect></td>
            <td><ElSelect v-if="hasForms && FORMS[column.type]" v-model="column.form" :empty-values="[null, undefined]" :aria-label="`how ${column.name} is written`">
                <ElOption v-for="one in FORMS[column.type]" :key="one.form" :value="one.form" :label="one.says" />
              </ElSelect><ElInput v-else-if="!hasForms && sized(column.type)" v-model="column.size" class="short" :aria-label="`size of ${column.name}`" :placeholder="column.type === 'decimal' ? '8,2' : '30'" /></td>
            <td><ElCheckbox v-model="column.isKey"><span class="only-read-aloud">{{ column.name }} is part of the key</span></ElCheckbox></td>
            <td><ElCheckbox v-model="column.notNull"><span class="only-read-aloud">{{ column.name }} is never NULL</span></ElCheckbox></td>
            <td><ElCheckbox v-model="column.unique"><span class="only-read-aloud">{{ column.name }} is unique</span></ElCheckbox></td>
            <td class="refers"><ElSelect v-model="column.refersTo" placeholder="–" clearable :aria-label="`${column.name} refers to`">
                <ElOption v-for="one in targets" :key="one" :value="one" :label="one" />
              </ElSelect><ElSelect v-if="column.refersTo" v-model="column.onDelete" :aria-label="`when the row that ${column.name} refers to is deleted`">
                <ElOption v-for="one in ON_DELETE" :key="one" :value="one" :label="one === 'NO ACTION' ? 'keeps it' : one.toLowerCase()" />
              </ElSelect></td>
            <td><ElInput v-model="column.default" class="short" :aria-label="`default of ${column.name}`" spellcheck="false" /></td>
            <td><ElInput v-model="column.check" class="check" :aria-label="`check on ${column.name}`" :data-hint="`such as ${column.name} > 0`" spellcheck="false" /></td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-for="(_, at) in table.checks" :key="at" class="rule">
      <label>check <ElInput v-model="table.checks[at]" spellcheck="false" /></label>
      <ElButton link @click="table.checks.splice(at, 1)">remove<span
          class="only-read-aloud"> the check</span></ElButton>
    </p>
    <p><ElButton link @click="add">one more column</ElButton></p>
  </section>
</template>

<style scoped>
.plan {
  margin-bottom: 22px;
}

.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
  margin-bottom: 6px;
}

.head > .el-button {
  margin-left: auto;
}

.wide {
  overflow-x: auto;
}

table {
  width: 100%;
  min-width: 900px;
  border-collapse: collapse;
  table-layout: fixed;
}

th {
  padding: 2px 6px;
  border-bottom: 1.5px solid var(--ink);
  color: var(--ink-2);
  font-weight: 600;
  text-align: left;
  white-space: nowrap;
}

td {
  padding: 3px 6px;
  border-bottom: 1px solid var(--line-soft);
  white-space: nowrap;
}

td .el-select,
td .el-input {
  --el-select-width: 100%;
  width: 100%;
}

.refers .el-select {
  display: block;
}

.head .el-select {
  --el-select-width: 110px;
}

.take,
.w-tick {
  width: 44px;
}

.w-unique {
  width: 58px;
}

.w-type {
  width: 78px;
}

.w-kind {
  width: 138px;
}

.w-form {
  width: 118px;
}

.w-size {
  width: 74px;
}

.w-name {
  width: 112px;
}

.name,
.short,
.check {
  font-family: var(--data);
}

.head .name {
  width: 140px;
}

.head .short {
  width: 64px;
}

.source {
  overflow: hidden;
  overflow-wrap: anywhere;
  font-family: var(--data);
  line-height: 1.2;
}

/* Two lines tell more of a column than one that is cut. */
.source small {
  display: -webkit-box;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  white-space: normal;
}

.rule {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 3px 6px;
}

.rule .el-input {
  width: 260px;
  font-family: var(--data);
}

.out td {
  opacity: 0.55;
}

</style>
