import { mount } from "@vue/test-utils";
import PrimeVue from "primevue/config";
import Slider from "primevue/slider";
import { describe, expect, it } from "vitest";

import AppSlider from "@/ui/AppSlider.vue";

function make(props: Partial<InstanceType<typeof AppSlider>["$props"]> = {}) {
  return mount(AppSlider, {
    props: { label: "Closeness", value: 0.1, min: 0.01, max: 1, step: 0.01, digits: 2, low: "near", high: "far", ...props },
    global: { plugins: [PrimeVue] },
  });
}

describe("slider", () => {
  it("moves while the hand moves and settles when it rests", async () => {
    const slider = make();
    const inner = slider.getComponent(Slider);
    inner.vm.$emit("update:modelValue", 500);
    expect(slider.emitted("move")?.[0]).toEqual([0.51]);
    expect(slider.emitted("settle")).toBeUndefined();
    inner.vm.$emit("slideend", {});
    expect(slider.emitted("settle")?.[0]).toEqual([0.51]);
  });

  it("goes by even ratios where asked to", () => {
    const slider = make({ ratio: true });
    expect(slider.getComponent(Slider).props("modelValue")).toBe(500);
    slider.getComponent(Slider).vm.$emit("update:modelValue", 1000);
    expect(slider.emitted("move")?.[0]).toEqual([1]);
  });

  it("shows words at its ends and follows its value", async () => {
    const slider = make();
    expect(slider.text()).toContain("near");
    await slider.setProps({ value: 1 });
    expect(slider.getComponent(Slider).props("modelValue")).toBe(1000);
  });
});
