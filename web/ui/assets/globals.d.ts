// The library that ships with the scripts, and what they leave to each other.
declare const htmx: any;

// What a selector finds, whoever wrote the selector knows.
interface ParentNode {
  querySelector(selectors: string): any;
  querySelectorAll(selectors: string): NodeListOf<any>;
}
interface Element {
  closest(selectors: string): any;
}
interface Document {
  getElementById(id: string): any;
}
// What an event happened to, whoever listens for it knows.
interface EventTarget {
  [member: string]: any;
}

// The library's events carry what they are about.
interface Event {
  readonly detail?: any;
  readonly key?: string;
}
interface PerformanceEntry {
  readonly type?: string;
}
