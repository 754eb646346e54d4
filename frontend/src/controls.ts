/** The controls that the pages use: registered here, styled by `styles/element.css`, and nowhere else. */
import "element-plus/es/components/alert/style/css";
import "element-plus/es/components/button/style/css";
import "element-plus/es/components/checkbox/style/css";
import "element-plus/es/components/config-provider/style/css";
import "element-plus/es/components/date-picker/style/css";
import "element-plus/es/components/dialog/style/css";
import "element-plus/es/components/drawer/style/css";
import "element-plus/es/components/input-number/style/css";
import "element-plus/es/components/input-tag/style/css";
import "element-plus/es/components/input/style/css";
import "element-plus/es/components/option/style/css";
import "element-plus/es/components/pagination/style/css";
import "element-plus/es/components/popconfirm/style/css";
import "element-plus/es/components/popover/style/css";
import "element-plus/es/components/progress/style/css";
import "element-plus/es/components/radio-group/style/css";
import "element-plus/es/components/radio/style/css";
import "element-plus/es/components/segmented/style/css";
import "element-plus/es/components/select-v2/style/css";
import "element-plus/es/components/select/style/css";
import "element-plus/es/components/skeleton/style/css";
import "element-plus/es/components/table-column/style/css";
import "element-plus/es/components/table/style/css";
import "element-plus/es/components/tooltip/style/css";
import "element-plus/es/components/upload/style/css";

import {
  ElAlert, ElButton, ElCheckbox, ElConfigProvider, ElDatePicker, ElDialog, ElDrawer, ElInput, ElInputNumber, ElInputTag, ElOption,
  ElPagination, ElPopconfirm, ElPopover, ElProgress, ElRadio, ElRadioGroup, ElSegmented, ElSelect, ElSelectV2, ElSkeleton, ElTable,
  ElTableColumn, ElTooltip, ElUpload,
} from "element-plus";
import dayjs from "dayjs";
import customParseFormat from "dayjs/plugin/customParseFormat.js";
import type { App, Component } from "vue";

const CONTROLS = {
  ElAlert, ElButton, ElCheckbox, ElConfigProvider, ElDatePicker, ElDialog, ElDrawer, ElInput, ElInputNumber, ElInputTag, ElOption,
  ElPagination, ElPopconfirm, ElPopover, ElProgress, ElRadio, ElRadioGroup, ElSegmented, ElSelect, ElSelectV2, ElSkeleton, ElTable,
  ElTableColumn, ElTooltip, ElUpload,
};
// Weeks begin on Monday, and what is typed as a time is read strictly.
dayjs.extend(customParseFormat);
if (dayjs.Ls.en) dayjs.Ls.en.weekStart = 1;

// A list of choices is drawn when it is opened: a page with twenty selects would draw, and place, twenty of them.
Object.assign(ElSelect.props.persistent, { default: false });

type Library = typeof import("element-plus");

declare module "vue" {
  interface GlobalComponents {
    ElAlert: Library["ElAlert"];
    ElButton: Library["ElButton"];
    ElCheckbox: Library["ElCheckbox"];
    ElConfigProvider: Library["ElConfigProvider"];
    ElDatePicker: Library["ElDatePicker"];
    ElDialog: Library["ElDialog"];
    ElDrawer: Library["ElDrawer"];
    ElInput: Library["ElInput"];
    ElInputNumber: Library["ElInputNumber"];
    ElInputTag: Library["ElInputTag"];
    ElOption: Library["ElOption"];
    ElPagination: Library["ElPagination"];
    ElPopconfirm: Library["ElPopconfirm"];
    ElPopover: Library["ElPopover"];
    ElProgress: Library["ElProgress"];
    ElRadio: Library["ElRadio"];
    ElRadioGroup: Library["ElRadioGroup"];
    ElSegmented: Library["ElSegmented"];
    ElSelect: Library["ElSelect"];
    ElSelectV2: Library["ElSelectV2"];
    ElSkeleton: Library["ElSkeleton"];
    ElTable: Library["ElTable"];
    ElTableColumn: Library["ElTableColumn"];
    ElTooltip: Library["ElTooltip"];
    ElUpload: Library["ElUpload"];
  }
}

export const controls = {
  install(app: App): void {
    for (const [name, control] of Object.entries<Component>(CONTROLS)) app.component(name, control);
  },
};
