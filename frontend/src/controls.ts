/** The controls that the pages use: registered here, styled by `styles/element.css`, and nowhere else. */
import "element-plus/es/components/autocomplete/style/css";
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
import "element-plus/es/components/popconfirm/style/css";
import "element-plus/es/components/popover/style/css";
import "element-plus/es/components/radio-group/style/css";
import "element-plus/es/components/radio/style/css";
import "element-plus/es/components/segmented/style/css";
import "element-plus/es/components/select-v2/style/css";
import "element-plus/es/components/select/style/css";

import {
  ElAutocomplete, ElButton, ElCheckbox, ElConfigProvider, ElDatePicker, ElDialog, ElDrawer, ElInput, ElInputNumber, ElInputTag, ElOption,
  ElPopconfirm, ElPopover, ElRadio, ElRadioGroup, ElSegmented, ElSelect, ElSelectV2,
} from "element-plus";
import type { App, Component } from "vue";

const CONTROLS = {
  ElAutocomplete, ElButton, ElCheckbox, ElConfigProvider, ElDatePicker, ElDialog, ElDrawer, ElInput, ElInputNumber, ElInputTag, ElOption,
  ElPopconfirm, ElPopover, ElRadio, ElRadioGroup, ElSegmented, ElSelect, ElSelectV2,
};
type Library = typeof import("element-plus");

declare module "vue" {
  interface GlobalComponents {
    ElAutocomplete: Library["ElAutocomplete"];
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
    ElPopconfirm: Library["ElPopconfirm"];
    ElPopover: Library["ElPopover"];
    ElRadio: Library["ElRadio"];
    ElRadioGroup: Library["ElRadioGroup"];
    ElSegmented: Library["ElSegmented"];
    ElSelect: Library["ElSelect"];
    ElSelectV2: Library["ElSelectV2"];
  }
}

export const controls = {
  install(app: App): void {
    for (const [name, control] of Object.entries<Component>(CONTROLS)) app.component(name, control);
  },
};
