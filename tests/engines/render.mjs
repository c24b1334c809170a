// Renders templates, given as JSON on standard input: [{"name": file name, "text": template}, …] and their shared values as
// the first argument; writes a list of HTML texts. Each template is rendered by the engine of its file ending.
import { readFileSync, writeFileSync, mkdirSync } from "node:fs";
import { fileURLToPath, pathToFileURL } from "node:url";

const values = JSON.parse(process.argv[2]);
const here = fileURLToPath(new URL(".", import.meta.url));
const withoutFront = (text) => text.replace(/^---\n[^]*?\n---\n/, "");
// What a bundler makes of an imported image: its address.
const bundled = (text, keyword) => text.replace(/^import (\w+) from "([^"]+\.(?:jpg|png))";?$/gm, `${keyword} $1 = "$2";`);

async function module(name, code) {
  const folder = `${here}node_modules/.made`;
  mkdirSync(folder, { recursive: true });
  const file = `${folder}/${process.pid}-${name}.mjs`;
  writeFileSync(file, code);
  return (await import(pathToFileURL(file))).default;
}

async function component(text, name) {
  const { transform } = await import("esbuild");
  const { code } = await transform(bundled(text, "const"), { loader: name.split(".").pop(), jsx: "automatic" });
  const { createElement } = await import("react");
  const { renderToStaticMarkup } = await import("react-dom/server");
  return renderToStaticMarkup(createElement(await module(name, code), values));
}

const engines = {
  njk: async (text) => {
    const { default: nunjucks } = await import("nunjucks");
    return new nunjucks.Environment(null, { autoescape: true }).renderString(withoutFront(text), values);
  },
  liquid: async (text) => {
    const { Liquid } = await import("liquidjs");
    return new Liquid().parseAndRender(withoutFront(text), values);
  },
  hbs: async (text) => (await import("handlebars")).default.compile(text)(values),
  twig: async (text) => (await import("twig")).default.twig({ data: text }).render(values),
  ejs: async (text) => (await import("ejs")).default.render(text, values),
  vue: async (text) => {
    const { createSSRApp } = await import("vue");
    const { renderToString } = await import("@vue/server-renderer");
    const template = text.replace(/^[^]*?<template>\n/, "").replace(/<\/template>(?![^]*<\/template>)[^]*$/, "");
    const app = createSSRApp({ template, props: Object.keys(values), methods: { go() {} } }, values);
    app.config.compilerOptions.isCustomElement = (tag) => tag.includes("-");
    return renderToString(app);
  },
  mdx: async (text) => {
    const { evaluate } = await import("@mdx-js/mdx");
    const { createElement } = await import("react");
    const { renderToStaticMarkup } = await import("react-dom/server");
    const page = await evaluate(bundled(text, "export const"), await import("react/jsx-runtime"));
    return renderToStaticMarkup(createElement(page.default, values));
  },
  jsx: component,
  tsx: component,
  svelte: async (text, name) => {
    const { compile } = await import("svelte/compiler");
    const { render } = await import("svelte/server");
    const { js } = compile(text, { generate: "server", name: "Page" });
    return render(await module(name, js.code), { props: values }).body;
  },
};
engines.handlebars = engines.mustache = engines.hbs;

const rendered = [];
for (const { name, text } of JSON.parse(readFileSync(0, "utf8"))) {
  rendered.push(await engines[name.split(".").pop()](text, name));
}
process.stdout.write(JSON.stringify(rendered));
