var htmx=(()=>{const e={parse(t){if(!t)return{};if(t.startsWith("{"))return JSON.parse(t);let r=/(?:"([^"]+)"|'([^']+)'|([^\s,:]+))(?:\s*:\s*(?:"([^"]*)"|'([^']*)'|<((?:[^/]|\/(?!>))+)\/>|([^\s,]+)))?(?=\s|,|$)/g,i={};for(let s of t.matchAll(r)){let[,t,r,n,o,a,l,h]=s,c=t??r??n,u=(o??a??l??h??"true").trim();try{u=JSON.parse(u)}catch{}let d=n?.includes("."),f=d?c.split(".").reduceRight((e,t)=>({[t]:e}),u):{[c]:u};e.merge(f,i)}return i},split:e=>e.split(/,(?![^\[]*\])(?![^(]*\))(?![^<]*\/>)(?=(?:[^"']|"[^"]*"|'[^']*')*$)/),merge(t,r){"string"==typeof t&&(t=e.parse(t));for(let[i,s]of Object.entries(t)){if(["__proto__","constructor","prototype"].includes(i))continue;let t=s?.constructor===Object,n=r[i]?.constructor===Object;t&&n?e.merge(s,r[i]):r[i]=s}return r}};class t{#e=null;#t=[];admit(e,t,r){if(!this.#e)return this.#e={strategy:e,abort:r},"run";if("replace"===e||"abort"!==e&&"abort"===this.#e.strategy)return this.#t=[],this.#e.abort?.(),this.#e={strategy:e,abort:r},"run";if("queue all"===e)this.#t.push(t);else if("queue last"===e)this.#t=[t];else{if("abort"===e||"drop"===e||0!==this.#t.length)return"dropped";this.#t.push(t)}return"queued"}continue(e){this.#e?.abort===e&&(this.#e=null,this.#t.shift()?.())}abort(){this.#e?.abort?.()}}return new class{#r=e;#i=new Map;#s="";#n=new Set;_loc=window.location;#o;#a=Function;#l=Object.getPrototypeOf(async function(){}).constructor;#h={createHTML:e=>e,createScript:e=>e};#c;#u="a,form";#d=["get","post","put","patch","delete","query"];#f;#m;#p;#g;#x;constructor(){this.#b(),this.#y(),this.#c=this.#S("[hx-action],[hx-get],[hx-post],[hx-put],[hx-patch],[hx-delete],[hx-query]"),this.#f=(new XPathEvaluator).createExpression(`.//*[@*[${this.#v("hx-on").map(e=>`starts-with(name(), "${e}")`).join(" or ")}]]`),this.#o={HCON:e,attributeValue:this.#E.bind(this),parseTriggerSpecs:this.#w.bind(this),determineMethodAndAction:this.#A.bind(this),createRequestContext:this.#T.bind(this),collectFormData:this.#C.bind(this),getAttributeObject:this.#q.bind(this),insertContent:this.#N.bind(this),morph:this.#I.bind(this),isSoftMatch:this.#M.bind(this),initSecurity:(e,t,r)=>{e&&(this.#h=e),t&&(this.#a=t),r&&(this.#l=r)},onTrigger:this.#O.bind(this),htmxProp:this.#H.bind(this),triggerHtmxEvent:this.#L.bind(this),executeJavaScript:this.#k.bind(this)};let t=()=>this.initialize();"loading"===document.readyState?document.addEventListener("DOMContentLoaded",t):setTimeout(t)}#b(){this.version="4.0.1",this.config={logAll:!1,prefix:"data-hx-",transitions:!1,history:!0,mode:"same-origin",defaultSwap:"innerHTML",defaultFocusScroll:!1,indicatorClass:"htmx-indicator",requestClass:"htmx-request",includeIndicatorCSS:!0,defaultTimeout:6e4,extensions:"",morphIgnore:["data-htmx-powered"],morphSkip:"[hx-morph-skip]",morphSkipChildren:"[hx-morph-skip-children]",morphScanLimit:10,noSwap:[204,304],implicitInheritance:!1,defaultSettleDelay:1,allowEmptySwapAfterOOB:!1};let t=document.querySelector('meta[name="htmx-config"]');t&&e.merge(t.content,this.config),this.#s=this.config.extensions}#y(){if(!1!==this.config.includeIndicatorCSS){let e=this.config.indicatorClass,t=this.config.requestClass;try{this.indicatorStyleSheet=new CSSStyleSheet,this.indicatorStyleSheet.replaceSync(`.${e}{opacity:0;visibility: hidden} .${t} .${e}, .${t}.${e}{opacity:1;visibility: visible;transition: opacity 200ms ease-in}`),document.adoptedStyleSheets.push(this.indicatorStyleSheet)}catch{}}}registerExtension(e,t){return!(this.#s&&!this.#s.split(/,\s*/).includes(e))&&(!this.#n.has(e)&&(this.#n.add(e),t.init&&t.init(this.#o),void Object.entries(t).forEach(([e,t])=>{this.#i.get(e)?.push(t)||this.#i.set(e,[t])})))}#V(e){let t=this.config.prefix;return!e.closest||null!=e.closest("[hx-ignore]")||t&&null!=e.closest(`[${t}ignore]`)}#P(e,t){let r=this.config.prefix;return e.getAttribute(t)??(r?e.getAttribute(t.replace("hx-",r)):null)}#R(e,t){let r=this.config.prefix&&t.replace("hx-",this.config.prefix);return e.hasAttribute(t)?t:r&&e.hasAttribute(r)?r:null}#S(e){return this.#v(e).join(",")}#v(e){let t=[e];return this.config.prefix&&t.push(e.replaceAll("hx-",this.config.prefix)),t}#j(e,t){let r=[...e.querySelectorAll?.(t)??[]];return e.matches?.(t)&&r.unshift(e),r}#B(e){return"before"===e?"beforebegin":"after"===e?"afterend":"prepend"===e?"afterbegin":"append"===e?"beforeend":e}#z(e,t){let r=[];return this.#E(e,t,void 0,(e,t)=>{e?.split(/\s*[,:]\s*/).includes("this")&&r.push(t)}),r}#E(e,t,r,i,s=this.config.implicitInheritance){t=this.#F(t);let n=this.#F(":inherited"),o=this.#F(":append"),a=this.#P(e,t)??this.#P(e,t+n);if(null!=a)return i?i(a,e):a;let l=CSS.escape(s?t:t+n),h=CSS.escape(t+n+o),c=this.#S(`[${l}],[${h}]`),u=this.#R(e,t+o)??this.#R(e,t+n+o);if(u){let r=e.getAttribute(u),n=e.parentNode?.closest?.(c);if(i&&i(r,e),n){let e=this.#E(n,t,void 0,i,s);return e?(e+","+r).replace(/[{}]/g,""):r}return r}let d=e.parentNode?.closest?.(c);return d?(a=this.#E(d,t,void 0,i),!i&&a&&s&&this.#$(e,"htmx:after:implicitInheritance",{elt:e,name:t,parent:d}),a):r}#w(t){return e.split(t).flatMap(t=>{t=t.replace(/^\s*every\s+(\S+?)\s*(\[[^\]]*\])/,"every$2 $1");let[,r,i]=t.match(/^\s*(\S+\[[^\]]*\]|\S+)\s*(.*?)\s*$/)??[];if(!r)return[];if(/\[[^\]]*$/.test(r))throw"unterminated:"+r;return[{name:r,...e.parse(i)}]})}#A(e,t){let r=this.#E(e,"hx-method"),i=this.#E(e,"hx-action",void 0,void 0,!1);if(!i)for(let t of this.#d){let s=this.#E(e,"hx-"+t,void 0,void 0,!1);if(null!=s){i=s,r=t;break}}return this.#D(e)&&(i||=t.submitter?.getAttribute?.("formAction")||e.getAttribute(e.matches("a")?"href":"action")),r||=t.submitter?.getAttribute?.("formmethod")||e.getAttribute("method")||"GET",{action:i,method:r.toUpperCase()}}#H(e){return e._htmx||(e._htmx={listeners:[],triggerSpecs:[]},e.setAttribute("data-htmx-powered","true")),e._htmx}#W(e){return e._htmx_state||={}}#_(e){if(this.#U(e)&&this.#L(e,"htmx:before:init",{},!0)){let t=this.#H(e);t.initialized=!0,t.eventHandler=this.#Q(e),this.#J(e),this.#L(e,"htmx:after:init",{},!0)}}#Q(e){return async t=>{try{let r=this.#T(e,t);await this.#X(r)}catch(t){this.#L(e,"htmx:error",{error:t})}}}#T(t,r){let{action:i,method:s}=this.#A(t,r),[n,o]=(i||"").split("#"),a=new AbortController,l={sourceElement:t,sourceEvent:r,status:"created",select:this.#E(t,"hx-select"),selectOOB:this.#E(t,"hx-select-oob"),target:this.#E(t,"hx-target"),swap:this.#E(t,"hx-swap")??this.config.defaultSwap,push:this.#E(t,"hx-push-url"),replace:this.#E(t,"hx-replace-url"),transition:this.config.transitions,confirm:this.#E(t,"hx-confirm"),request:{validate:"true"===this.#E(t,"hx-validate",!t.matches("form")||t.noValidate||r.submitter?.formNoValidate?"false":"true",void 0,!1),action:n,anchor:o,method:s,headers:this.#G(t),abort:a.abort.bind(a),credentials:"same-origin",signal:a.signal,mode:this.config.mode}};t._htmx?.boosted&&e.merge(t._htmx.boosted,l),l.target=this.#K(t,l.target),l.target&&(l.request.headers["HX-Target"]=this.#Y(l.target));let h=this.#E(t,"hx-config");return h&&(e.merge(h,l.request),l.request.mode=this.config.mode),l}#Y(e){return`${e.tagName.toLowerCase()}${e.id?"#"+encodeURI(e.id):""}`}#G(e){let t={"HX-Request":"true","HX-Source":this.#Y(e),"HX-Current-URL":location.href,Accept:"text/html"};return this.#D(e)&&(t["HX-Boosted"]="true"),t}#Z(e,t){return this.#q(e,"hx-headers",e=>{for(let r in e)t.request.headers[r]=String(e[r])},{ctx:t})}#K(e,t){return t instanceof Element?t:null!=t?this.#ee(e,t,"hx-target"):this.#D(e)?document.body:e}#D(e){return e?._htmx?.boosted}async#X(e){let t=e.sourceElement,r=e.sourceEvent;if(!t.isConnected)return;if(this.#te(r))return;this.#re(r)&&r.preventDefault();let i=/GET|DELETE/.test(e.request.method),s=i?t.matches("form")?t:null:t.form||t.closest("form"),n=this.#C(t,s,r.submitter,e.request.validate,i);if(!n)return;let o=this.#q(t,"hx-vals",t=>{e.vals=t;for(let e in t)n.set(e,t[e])},{ctx:e});if(o&&await o,e.values)for(let t in e.values)n.delete(t),n.append(t,e.values[t]);let a=this.#Z(t,e);if(a&&await a,Object.assign(e.request,{form:s,submitter:r.submitter,body:n}),!this.#L(t,"htmx:config:request",{ctx:e}))return;if("DIALOG"===e.request.method)return;let l=this.#ie(e.request.action);if(null!=l){let t=Object.fromEntries(e.request.body);return void await this.#k(e.sourceElement,t,l,!1)}if(i){let t=new URL(e.request.action,document.baseURI);for(let r of e.request.body.keys())t.searchParams.delete(r);for(let[r,i]of e.request.body)t.searchParams.append(r,i);t.origin===location.origin?e.request.action=t.pathname+t.search:e.request.action=t.href,e.request.body=null}else"multipart/form-data"!==(this.#E(t,"hx-encoding")??s?.enctype)&&(e.request.body=new URLSearchParams(e.request.body));await this.#se(e)}async#se(e){let t=e.sourceElement,r=this.#ne(t),i=this.#oe(t);this.#ae(t);let s=()=>e.request?.abort?.();if("run"===i.admit(r,()=>this.#se(e),s)){e.status="issuing",e.indicators??=[],e.disabledElements??=[];try{if(e.confirm){if(!await new Promise(r=>{let i={ctx:e,issueRequest:()=>r(!0),dropRequest:()=>r(!1)};if(this.#L(t,"htmx:confirm",i)){let i=this.#ie(e.confirm);r(i?this.#k(t,{ctx:e},i,!0):window.confirm(e.confirm))}}))return}if(this.#le(e),this.#he(e),this.#ce(e),e.fetch||=window.fetch.bind(window),e.request.headers["HX-Request-Type"]=e.target===document.body||e.select?"full":"partial",!this.#L(t,"htmx:before:request",{ctx:e}))return;let r=await e.fetch(e.request.action,e.request);if(e.response={raw:r,status:r.status,headers:r.headers},this.#ue(e),!this.#L(t,"htmx:before:response",{ctx:e}))return;if(e.text=await r.text(),!this.#L(t,"htmx:after:request",{ctx:e}))return;if(e.response.status>=400&&this.#L(t,"htmx:response:error",{ctx:e}),this.#de(e))return void(e.keepIndicators=!0);if("issuing"===e.status){if(e.hx.retarget&&(e.target=e.hx.retarget),e.hx.reswap&&(e.swap=e.hx.reswap),e.hx.reselect&&(e.select=e.hx.reselect),!1===e.target?.isConnected)return;e.status="response received",this.#fe(e),await this.swap(e),e.status="swapped"}}catch(r){e.status="error: "+r,"AbortError"===r?.name&&"timeout"!==e.request.signal.reason||this.#L(t,"htmx:error",{ctx:e,error:r})}finally{await(e.extensionPromise?.catch(()=>{})),clearTimeout(e.requestTimeout),e.hx?.trigger&&this.#me(e.hx.trigger,e.sourceElement),this.#L(t,"htmx:finally:request",{ctx:e}),e.keepIndicators||(this.#pe(e.indicators),this.#ge(e.disabledElements)),i.continue(s)}}}#ue(e){e.hx={};for(let[t,r]of e.response.raw.headers)t.toLowerCase().startsWith("hx-")&&(e.hx[t.slice(3).toLowerCase().replace(/-/g,"")]=r)}#de(t){if("true"===t.hx.refresh)return this._loc.reload(),!0;if(t.hx.redirect)return this._loc.href=t.hx.redirect,!0;if(t.hx.location){let r=t.hx.location,i={},s=e.parse(r);return"{"!==r[0]&&null==s.path||(i=s,r=i.path,delete i.path),null==i.push&&null==i.replace&&(i.push="true"),i.indicators=t.indicators,i.disabledElements=t.disabledElements,this.ajax("GET",r,i),!0}}#le(e){let t=null!=e.request.timeout?this.parseInterval(e.request.timeout):this.config.defaultTimeout;t&&(e.requestTimeout=setTimeout(()=>e.request?.abort?.("timeout"),t))}#ne(e){let t=this.#E(e,"hx-sync");if(!t)return"queue first";let r=t.split(":").pop().trim();return/^(drop|abort|replace|queue)/.test(r)?r:"queue first"}#oe(e){let r=this.#E(e,"hx-sync"),i=e;if(r){let t=r.includes(":")?r.slice(0,r.lastIndexOf(":")).trim():/^(drop|abort|replace|queue)/.test(r)?null:r;t&&(i=this.#ee(e,t,"hx-sync")||e)}return this.#W(i).rq||=new t}#te(e){return"click"===e.type&&(e.ctrlKey||e.metaKey||e.shiftKey)&&!!e.currentTarget?.closest?.("a[href]")}#re(e){let t=e.currentTarget;if("submit"===e.type&&"FORM"===t?.tagName)return!0;if(!("click"===e.type&&0===e.button))return!1;let r=t?.closest?.('button, input[type="submit"], input[type="image"]'),i=r?.form||r?.closest("form");if(r&&!r.disabled&&i&&("submit"===r.type||"image"===r.type||!r.type&&"BUTTON"===r.tagName))return!0;let s=t?.closest?.("a");if(!s||!s.href)return!1;let n=s.getAttribute("href");return!(n&&n.startsWith("#")&&n.length>1)}#J(e,t=e._htmx.eventHandler){let r=this.#E(e,"hx-trigger",void 0,void 0,!1)||(e.matches("form")?"submit":e.matches("input:not([type=button]):not([type=submit]),select,textarea")?"change":"click");this.#O(e,r,t)}#O(e,t,r){let i=this.#w(t);this.#H(e).triggerSpecs.push(...i);for(let t of i){t.listeners=[];let[i,s]=this.#xe(t.name),n=[e];"outside"===t.from?n=[document]:t.from&&"self"!==t.from&&(n=this.#be(e,t.from));let o=i=>{if((t.halt||t.prevent)&&i.preventDefault(),(t.halt||t.stop||t.consume)&&i.stopPropagation(),t.changed){let t=this.#W(e).changedValues??=new WeakMap,r=i.target;if(!["checkbox","radio"].includes(r?.type)){let e=r?.value;if(t.has(r)&&t.get(r)===e)return;t.set(r,e)}}if(t.once)for(let e of t.listeners)e.fromElt.removeEventListener(e.eventName,e.handler,e);r(i)},a=o;if(t.delay?a=e=>{clearTimeout(t.timeout),t.timeout=setTimeout(()=>o(e),this.parseInterval(t.delay))}:t.throttle&&(a=e=>{t.throttled?t.throttledEvent=e:(t.throttled=!0,o(e),t.throttleTimeout=setTimeout(()=>{if(t.throttled=!1,t.throttledEvent){let e=t.throttledEvent;t.throttledEvent=null,a(e)}},this.parseInterval(t.throttle)))}),t.handler=r=>{if(this.#re(r)&&r.preventDefault(),("self"!==t.from||r.target===e)&&("outside"!==t.from||!e.contains(r.target))&&(!t.target||r.target?.matches?.(t.target))){if(s){let t={};for(let e in r)/^[a-z]+$/i.test(e)&&(t[e]=r[e]);if(!this.#k(e,t,s,!0,!1))return}if("every"!==i)for(let t of this.#H(e).triggerSpecs)clearTimeout(t.timeout),t.throttledEvent=null;a(r)}},"intersect"===i||"revealed"===i){let r={rootMargin:t.rootMargin};t.root&&(r.root=this.#ee(e,t.root)),t.threshold&&(r.threshold=parseFloat(t.threshold));let s="revealed"===i;t.observer=new IntersectionObserver(e=>{for(let r=0;r<e.length;r++)if(e[r].isIntersecting){this.trigger(e[r].target,"intersect",{},!1),s&&t.observer.disconnect();break}},r),i="intersect";for(let e of n)t.observer.observe(e)}if("every"===i){let r=Object.keys(t).find(e=>"name"!==e);t.interval=setInterval(()=>{e.isConnected?this.#L(e,"every",{},!1):clearInterval(t.interval)},this.parseInterval(r))}if("load"!==i)for(let r of n){let s={fromElt:r,eventName:i,handler:t.handler,capture:!!t.capture,passive:!!t.passive};e._htmx.listeners.push(s),t.listeners.push(s),r.addEventListener(i,t.handler,s)}else t.handler(new CustomEvent("load"))}}#xe(e){let t=e.match(/^([^\[]*)\[([^\]]*)]/);return t?[t[1],t[2]]:[e,null]}#me(t,r){if("{"===t[0]){let i=e.parse(t);for(let e in i){let t=i[e],s=r;t?.target&&(s=this.find(t.target)),this.trigger(s,e,"object"==typeof t?t:{value:t})}}else t.split(",").forEach(e=>this.trigger(r,e.trim(),{}))}#ye(e){let t={},r=Object.getPrototypeOf(this);for(let i of Object.getOwnPropertyNames(r))"constructor"!==i&&"function"==typeof this[i]&&(["find","findAll"].includes(i)?t[i]=(t,r)=>void 0===r?this[i](e,t):this[i](t,r):t[i]=this[i].bind(this));return t}#k(e,t,r,i=!0,s=!0,n=!1){let o={};Object.assign(o,this.#ye(e));let a={},l={scope:a,code:r};this.#$(e,"htmx:scope",l),r=l.code,Object.assign(o,a),Object.assign(o,t);let h=Object.keys(o),c=Object.values(o),u=new(s?this.#l:this.#a)(...h,i?`return (${r})`:r);return n?()=>u.call(e,...c):u.call(e,...c)}process(e,t){if(!e?.isConnected)return;if(!(e instanceof Element)){for(let r of e.children||[])this.process(r,t);return}if(t&&this.#Se(e,!0),this.#V(e))return;if(!this.#L(e,"htmx:before:process"))return;let r=[e],i=this.#f.evaluate(e),s=null;for(;s=i.iterateNext();)r.push(s);for(let e of r)!this.#V(e)&&this.#L(e,"htmx:before:on:init",{},!0)&&this.#ve(e);for(let t of this.#j(e,this.#c))this.#_(t);for(let t of this.#j(e,this.#u))this.#Ee(t);this.#L(e,"htmx:after:process")}#Ee(e){let t=this.#E(e,"hx-boost");if(t&&"false"!==t&&this.#we(e)&&this.#L(e,"htmx:before:init",{},!0)){let r=this.#H(e);r.initialized=!0,r.eventHandler=this.#Q(e),r.boosted=t,this.#J(e),this.#L(e,"htmx:after:init",{},!0)}}#we(e){if(this.#U(e))if("A"===e.tagName){if(""===e.target||"_self"===e.target)return!e.hasAttribute("download")&&!e.getAttribute("href")?.startsWith?.("#")&&this.#Ae(e.href)}else if("FORM"===e.tagName)return"dialog"!==e.method&&this.#Ae(e.action)}#Ae(e){try{return new URL(e,window.location.href).origin===window.location.origin}catch(e){return!1}}#U(e){return!e._htmx?.initialized&&!this.#V(e)}#Se(e,t){let r=[e,...e.querySelectorAll?.("[data-htmx-powered]")??[]];for(let e of r)if(e._htmx){this.#L(e,"htmx:before:cleanup");for(let t of e._htmx.triggerSpecs||[])t.interval&&clearInterval(t.interval),t.timeout&&clearTimeout(t.timeout),t.throttleTimeout&&clearTimeout(t.throttleTimeout),t.observer?.disconnect();for(let t of e._htmx.listeners||[])t.fromElt.removeEventListener(t.eventName,t.handler,t);e.removeAttribute("data-htmx-powered"),this.#L(e,"htmx:after:cleanup"),t&&delete e._htmx}}#Te(e){let t=document.createElement("div");t.hidden=!0,document.body.insertAdjacentElement("afterend",t);let r=e.querySelectorAll?.(this.#S("[hx-preserve]"))||[];for(let e of r){let r=document.getElementById(e.id);r&&this.#Ce(t,r,null)}return t}#qe(e){for(let t of[...e.children]){let e=document.getElementById(t.id);e&&(this.#Ce(e.parentNode,t,e),this.#Se(e),e.remove())}e.remove()}#Ne(e){let t=this.#h.createHTML(e);return Document.parseHTMLUnsafe?.(t,{})||(new DOMParser).parseFromString(t,"text/html")}#Ie(e){let t=e.replace(/<hx-([a-z]+)(\s+|>)/gi,'<template hx type="$1"$2').replace(/<\/hx-[a-z]+>/gi,"</template>"),r="";t=t.replace(/<head(\s[^>]*)?>[\s\S]*?<\/head>/i,e=>(r=this.#Ne(e).title,""));let i,s,n=t.match(/<([a-z][^\/>\x20\t\r\n\f]*)/i)?.[1]?.toLowerCase();if("html"===n||"body"===n?(i=this.#Ne(t),s=document.createDocumentFragment(),s.append(i.body)):(i=this.#Ne(`<template>${t}</template>`),s=i.querySelector("template").content),!r){let e=s.querySelector("title:not(svg title)");e&&(r=e.textContent,e.remove())}return this.#Me(s),{fragment:s,title:r}}#Oe(e,t,r,i){let s=t.id?"#"+CSS.escape(t.id):null,[,n,o]=r.match(/^(\S+):(.+)/)??[];n&&([r,s]=[n,o||s]),"true"!==r&&r||(r="outerHTML");let a=this.#He(r);if(s=a.target||s,a.strip??=!a.style.startsWith("outer"),!s)return;let l=this.#be(i,s);for(let r of l){let s=document.createDocumentFragment();s.append(t.cloneNode(!0)),e.push({type:"oob",fragment:s,target:r,swapSpec:a,sourceElement:i})}t.remove()}#Le(e,t,r){let i=[];if(r)for(let s of r.split(",")){let[r,n="true"]=s.split(/:(.*)/);for(let s of e.querySelectorAll(r))this.#Oe(i,s,n,t)}for(let r of e.querySelectorAll(this.#S("[hx-swap-oob]"))){let e=this.#R(r,"hx-swap-oob"),s=r.getAttribute(e);r.removeAttribute(e),this.#Oe(i,r,s,t)}return i}#ke(e,t,r){t?t.before(...r.childNodes):e.append(...r.childNodes)}#He(t){t=t.trim();let r=this.config.defaultSwap;if(t&&!/^\S*:/.test(t)){let e=t.match(/^(\S+)\s*(.*)$/);r=e[1],t=e[2]}return{style:this.#B(r),...e.parse(t)}}#Ve(e,t){let r=[];for(let i of e.querySelectorAll("template[hx]")){let e=i.getAttribute("type");if("partial"===e){let e=this.#P(i,"hx-target")||(i.id?"#"+CSS.escape(i.id):null);if(e){this.#Me(i.content);let s=this.#He(this.#P(i,"hx-swap")||this.config.defaultSwap);s.ignoreTitle&&(t.title=null);let n=this.#be(t.sourceElement,e);for(let e of n.length?n:[null])r.push({type:"partial",fragment:i.content.cloneNode(!0),target:e,swapSpec:s,sourceElement:t.sourceElement})}}else this.#$(i,"htmx:process:"+e,{ctx:t,tasks:r});i.remove()}return r}#Pe(e,t,r,i){try{null!=r&&e.setSelectionRange&&e.setSelectionRange(r,i),e.focus(t)}catch(e){}}#Re(e){let t=this.#j(e,"[autofocus]")[0];t&&this.#Pe(t)}#je(e){return e===window||e===document?document.scrollingElement:e}#Be(e,t){if(e.scroll){let r=e.scrollTarget?this.#je(this.#ze(t,e.scrollTarget)):t;r&&("top"===e.scroll?r.scrollTop=0:"bottom"===e.scroll&&(r.scrollTop=r.scrollHeight))}if("top"===e.show||"bottom"===e.show){let r=e.showTarget?this.#je(this.#ze(t,e.showTarget)):t;r?.scrollIntoView?.("top"===e.show)}}#Fe(e){e.request?.anchor&&document.getElementById(e.request.anchor)?.scrollIntoView({block:"start",behavior:"auto"})}#Me(e){let t=this.#j(e,"script");for(let e of t){let t=document.createElement("script");for(let r of e.attributes)t.setAttribute(r.name,r.value);this.config.inlineScriptNonce&&(t.nonce=this.config.inlineScriptNonce),t.textContent=this.#h.createScript(e.textContent),e.replaceWith(t)}}initialize(){this.config.history&&!this.#g&&(this.#g=!0,window.navigation&&!/firefox/i.test(navigator.userAgent)?navigation.addEventListener("navigate",e=>{"traverse"===e.navigationType&&e.canIntercept&&!e.hashChange&&e.intercept({handler:()=>this.#$e()})}):window.addEventListener("popstate",e=>this.#$e(e.state))),this.process(document.body)}async swap(e){try{let{fragment:t,title:r}=this.#Ie(e.text);e.title=r;let i=[],s=this.#Le(t,e.sourceElement,e.selectOOB),n=this.#Ve(t,e);i.push(...s,...n);let o=n.length||s.length&&!this.config.allowEmptySwapAfterOOB,a=this.#De(e,t,o);if(a&&i.unshift(a),!this.#L(e.sourceElement,"htmx:before:swap",{ctx:e,tasks:i}))return;this.#We(e);let l=[],h=[];for(let t of i)t.swapSpec?.transition??a?.transition??e.transition?h.push(t):l.push(this.#N(t));if(h.length>0){let t=async()=>{for(let e of h)await this.#N(e,!1)};l.push(this.#_e(t,e))}await Promise.all(l),!e.sourceElement?.isConnected&&a?.target?.isConnected&&(e.sourceElement=a.target),this.#L(e.sourceElement,"htmx:after:swap",{ctx:e}),e.title&&"none"!==e.swap&&(document.title=e.title),this.#Fe(e)}finally{this.#L(e.sourceElement,"htmx:finally:swap",{ctx:e})}}#De(e,t,r){let i=this.#He(e.swap||this.config.defaultSwap);if(i.ignoreTitle&&(e.title=null),"delete"===i.style||(t.querySelector("body")||t).childElementCount>0||t.textContent.trim()||(i.swapEmpty??!r)){if(e.select){let r=t.querySelectorAll(e.select);(t=document.createDocumentFragment()).append(...r)}return this.#D(e.sourceElement)&&(i.show||="top"),{type:"main",fragment:t,target:this.#K(e.sourceElement||document.body,i.target||e.target),swapSpec:i,sourceElement:e.sourceElement,transition:e.transition&&!1!==i.transition}}}async#N(e,t=!0){let{target:r,swapSpec:i,fragment:s}=e;if("string"==typeof r&&(r=document.querySelector(r)),!r)return;"string"==typeof i&&(i=this.#He(i));let n,o=i.style;if("none"===o)return;if("BODY"===s.firstElementChild?.tagName){const e=r===document.body&&o.startsWith("outer");e&&"outerHTML"===o&&(o="outerSync"),i.strip??=!e}if(i.strip&&s.firstElementChild&&(s=document.createDocumentFragment(),s.append(...(e.fragment.firstElementChild.content||e.fragment.firstElementChild).childNodes)),this.#Ue(r,"htmx-swapping"),t&&e.swapSpec?.swap&&await this.timeout(e.swapSpec?.swap),"delete"===o)return void(r.parentNode&&(this.#Se(r),r.parentNode.removeChild(r)));let a=[],l=i.settle??this.config.defaultSettleDelay,h=r.parentNode;if("innerHTML"===o||"outerHTML"===o&&h){let e=document.activeElement;if(e?.id){let t,r;try{t=e.selectionStart,r=e.selectionEnd}catch(e){}n={elt:e,start:t,end:r}}a=t&&l?this.#Qe(s,r):[]}let c=this.#Te(s),u=[...s.childNodes];try{if("innerHTML"===o){for(const e of r.children)this.#Se(e);r.replaceChildren(...s.childNodes)}else if("textContent"===o){for(const e of r.querySelectorAll("[data-htmx-powered]"))this.#Se(e);r.textContent=s.textContent}else if("outerHTML"===o)h&&(this.#ke(h,r,s),this.#Se(r),h.removeChild(r),r=u.find(e=>1===e.nodeType)||h);else if("outerSync"===o){this.#Je(r,s.firstElementChild);for(const e of r.children)this.#Se(e);r.replaceChildren(...s.firstElementChild.childNodes),u=[r]}else if("innerMorph"===o)this.#I(r,s,!0),u=[...r.childNodes];else if("outerMorph"===o)this.#I(r,s,!1),u.push(r);else if("beforebegin"===o)h&&this.#ke(h,r,s);else if("afterbegin"===o)this.#ke(r,r.firstChild,s);else if("beforeend"===o)this.#ke(r,null,s);else if("afterend"===o)h&&this.#ke(h,r.nextSibling,s);else{let e=this.#i.get("handle_swap")||[],t=!1;for(const n of e){let e=n(o,r,s,i);if(e){t=!0,Array.isArray(e)&&(u=e);break}}if(!t)throw new Error(`Unknown swap style: ${o}`)}}finally{this.#Xe(r,"htmx-swapping")}if(e.target=r,this.#qe(c),n&&!n.elt.matches(":focus")){let e=document.getElementById(n.elt.id);if(e){let t={preventScroll:void 0!==i.focusScroll?!i.focusScroll:!this.config.defaultFocusScroll};this.#Pe(e,t,n.start,n.end)}}this.#L(r,"htmx:before:settle",{task:e,newContent:u,settleTasks:a});for(const e of u)this.#Ue(e,"htmx-added");if(t&&a.length>0){this.#Ue(r,"htmx-settling"),await this.timeout(l);for(let e of a)e();this.#Xe(r,"htmx-settling")}this.#L(r,"htmx:after:settle",{task:e,newContent:u,settleTasks:a});for(const e of u)this.#Xe(e,"htmx-added"),this.process(e),this.#Re(e);this.#Be(i,r)}#L(e,t,r={},i=!0){if(r.error){let i=`htmx: ${t}: ${r.error.message??r.error}`;r.error instanceof Error?console.error(i,r.error,{elt:e,detail:r}):console.error(i,{elt:e,detail:r})}else r.warn?console.warn(`htmx: ${t}: ${r.warn}`,{elt:e,detail:r}):this.config.logAll&&console.log(`htmx: ${t}`,{elt:e,detail:r});return e=this.#Ge(e),this.#$(e,t,r),this.trigger(e,this.#F(t),r,i)}#$(e,t,r={}){let i=this.#i.get(t.replace(/:/g,"_"));if(i){r.cancelled=!1;for(const t of i)if(!1===t(e,r)||r.cancelled)return r.cancelled=!0,!1}return!0}timeout(e){if((e=this.parseInterval(e))>0)return new Promise(t=>setTimeout(t,e))}onLoad(e){this.on(this.#F("htmx:after:process"),t=>{e(t.target)})}on(e,t,r){let i,s=document;return void 0===r?(i=e,r=t):(s=this.#Ge(e),i=t),s.addEventListener(i,r),r}find(e,t){return this.#ze(e,t)}findAll(e,t){return this.#be(e,t)}parseInterval(e){if("number"==typeof e)return e;let[,t,r]=e?.match(/^([\d.]+)(ms|s|m)?$/)||[],i=parseFloat(t)*({ms:1,s:1e3,m:6e4}[r]||1);return isNaN(i)?void 0:i}trigger(e,t,r={},i=!0){e=this.#Ge(e);let s=new CustomEvent(t,{detail:r,cancelable:!0,bubbles:i,composed:!0}),n=e?.isConnected?e:document;return!r?.cancelled&&n.dispatchEvent(s)}ajax(e,t,r){(!r||r instanceof Element||"string"==typeof r)&&(r={target:r});let i="string"==typeof r.source?document.querySelector(r.source):r.source;if("string"==typeof r.source&&!i)return Promise.reject(new Error("Source not found"));i||=document.body;let s=this.#T(i,r.event||{});return Object.assign(s,r),r.target&&(s.target=this.#K(document.body,r.target),!s.target)?Promise.reject(new Error("Target not found")):(Object.assign(s.request,{action:t,method:e.toUpperCase()}),r.headers&&Object.assign(s.request.headers,r.headers),this.#X(s))}#Ke(e){this.config.history&&(history.pushState({htmx:!0},"",e),this.#L(document,"htmx:after:history:push",{path:e}))}#Ye(e){this.config.history&&(history.replaceState({htmx:!0},"",e),this.#L(document,"htmx:after:history:replace",{path:e}))}async#$e(e,t){if(await this.timeout(1),e??=history.state,!e?.htmx)return;this.#p?.abort(),t=t||location.pathname+location.search;let r=document.querySelector(this.#S("[hx-history-elt]"))||document.body;if(this.#L(document,"htmx:before:history:restore",{path:t,cacheMiss:!0})){if("reload"!==this.config.history)return this.#p=new AbortController,this.ajax("GET",t,{target:r,swap:"outerSync",select:r!==document.body?this.#S("[hx-history-elt]"):void 0,request:{headers:{"HX-History-Restore-Request":"true"},signal:this.#p.signal}});this._loc.reload()}}#Ze(e){let{sourceElement:t,push:r,replace:i,hx:s,response:n}=e;if((s?.pushurl||s?.replaceurl)&&(r=s.pushurl,i=s.replaceurl),null==r&&null==i&&this.#D(t)&&(r="true"),"false"!==r&&!1!==r||(r=null),"false"!==i&&!1!==i||(i=null),!r&&!i)return null;let o=r||i;if("true"===o){let t=n?.raw?.url||e.request.action,r=new URL(t,location.href);o=r.pathname+r.search+(e.request.anchor?"#"+e.request.anchor:"")}return{type:r?"push":"replace",path:o}}#We(e){if(!this.config.history)return;history.state?.htmx||history.replaceState({htmx:!0},"",location.href);let t=this.#Ze(e);if(!t)return;let r={history:t,sourceElement:e.sourceElement,response:e.response};this.#L(document,"htmx:before:history:update",r)&&("push"===t.type?this.#Ke(t.path):this.#Ye(t.path),this.#L(document,"htmx:after:history:update",r))}#ve(e){if(e._htmx?.onInitialized)return;let t=this.#v("hx-on"),r=this.config.metaCharacter||":",i=t=>async r=>{try{await this.#k(e,{event:r},`with(event?.detail||{}){${t}}`,!1)}catch(t){"symbol"!=typeof t&&this.#L(e,"htmx:error",{error:t})}};for(let s of e.getAttributeNames()){let n=t.find(e=>s.startsWith(e));if(!n)continue;this.#H(e).onInitialized=!0;let o=s.substring(n.length),a=e.getAttribute(s);if(!o){for(let t of a.split(/;(?=[^;]*->)/)){let r=t.indexOf("->");-1!==r&&this.#O(e,t.substring(0,r).trim(),i(t.substring(r+2).trim()))}continue}if(o[0]!==r)continue;let l=o.substring(1);l.startsWith(r)&&(l="htmx"+r+l.substring(1)),this.#O(e,l,i(a))}}#he(e){let t,r=e.sourceElement,i=this.#E(r,"hx-indicator");if(i)t=this.#be(r,i,"hx-indicator");else{if(r===document.body)return;t=[r]}for(const r of t){e.indicators.push(r);let t=this.#W(r);t.rc=(t.rc||0)+1,this.#Ue(r,this.config.requestClass)}}#pe(e){for(let t of e){let e=this.#W(t);e.rc&&--e.rc<=0&&(this.#Xe(t,this.config.requestClass),delete e.rc)}}#ce(e){let t=e.sourceElement,r=this.#E(t,"hx-disable");if(r)for(let i of this.#be(t,r,"hx-disable")){e.disabledElements.push(i);let t=this.#W(i);t.dc=(t.dc||0)+1,i.disabled=!0}}#ge(e){for(const t of e){let e=this.#W(t);e.dc&&--e.dc<=0&&(t.disabled=!1,delete e.dc)}}#C(e,t,r,i,s){if(i&&t&&!t.reportValidity())return;r??=t&&"submit"===e.type?e:null;let n=t?new FormData(t):new FormData,o=t?new Set(t.elements):new Set;if(!t){if(i&&e.reportValidity&&!e.reportValidity())return;this.#et(e,o,n,s)}r?.name&&(n.append(r.name,r.value),o.add(r));let a=this.#E(e,"hx-include");if(a)for(let t of this.#be(e,a)){if(i&&t.reportValidity&&!t.reportValidity())return;this.#et(t,o,n)}return n}#et(e,t,r,i){let s=e.tagName,n=[];"BUTTON"===s||s.includes("-")?n=[e]:(["INPUT","SELECT","TEXTAREA","FIELDSET"].includes(s)||!i&&e!==document.body)&&(n=this.#j(e,"[name]:not(button)"));for(let e of n){let i=e.name||e.getAttribute?.("name");if(!i||e.matches(":disabled")||t.has(e))continue;t.add(e);let s=e.type;if("checkbox"===s||"radio"===s||"INPUT"!==e.tagName&&"checked"in e)e.checked&&r.append(i,e.value);else if("file"===s)for(let t of e.files)r.append(i,t);else if("select-multiple"===s)for(let t of e.selectedOptions)r.append(i,t.value);else if(Array.isArray(e.value))for(let t of e.value)r.append(i,t);else r.append(i,e.value)}}#q(t,r,i,s={}){let n=this.#E(t,r);if(!n)return null;let o=this.#ie(n);if(o)return 0!==o.indexOf("{")&&(o="{"+o+"}"),this.#k(t,s,o,!0).then(e=>{i(e)});i(e.parse(n))}#tt(e){let t=e.trim();return t.startsWith("<")&&t.endsWith("/>")?t.slice(1,-2):t}#be(t,r,i,s){let n=r??t,o=r?this.#Ge(t)||document.body:document;if(n.startsWith("global "))return this.#be(o,n.slice(7),i,!0);let a=n?e.split(n):[],l=[],h=[];for(const e of a){let t,r=this.#tt(e);if(r.startsWith("closest "))t=o.closest(r.slice(8));else if(r.startsWith("find "))t=o.querySelector(r.slice(5));else if(r.startsWith("findAll "))l.push(...o.querySelectorAll(r.slice(8)));else if("next"===r||"nextElementSibling"===r)t=o.nextElementSibling;else if(r.startsWith("next "))t=this.#rt(o,r.slice(5),!!s);else if("previous"===r||"previousElementSibling"===r)t=o.previousElementSibling;else if(r.startsWith("previous "))t=this.#it(o,r.slice(9),!!s);else if("document"===r)t=document;else if("window"===r)t=window;else if("body"===r)t=document.body;else if("host"===r)t=o.getRootNode().host;else if("this"===r){if(i){l.push(...this.#z(o,i));continue}t=o}else h.push(r);t&&l.push(t)}if(h.length>0){let e=h.join(","),t=this.#st(o,!!s);l.push(...t.querySelectorAll(e))}return[...new Set(l)]}#rt(e,t,r){return this.#nt(this.#st(e,r).querySelectorAll(t),e,Node.DOCUMENT_POSITION_PRECEDING)}#it(e,t,r){let i=[...this.#st(e,r).querySelectorAll(t)].reverse();return this.#nt(i,e,Node.DOCUMENT_POSITION_FOLLOWING)}#nt(e,t,r){for(const i of e)if(i.compareDocumentPosition(t)===r)return i}#st(e,t){return e.isConnected&&e.getRootNode?e.getRootNode?.({composed:t}):document}#ee(e,t,r){let i=this.#be(e,t,r)[0];return i||console.warn(`htmx: '${t}' on ${r} did not match any element`,{elt:e,selector:t,attr:r}),i}#ze(e,t,r){return this.#be(e,t,r)[0]}#ie(e){if(null!=e){if(e.startsWith("js:"))return e.substring(3);if(e.startsWith("javascript:"))return e.substring(11)}}#ae(e){let t=this.#H(e);if(t.abortInitialized)return;t.abortInitialized=!0;let r=()=>{this.#oe(e).abort()};e.addEventListener("htmx:abort",r),t.listeners.push({fromElt:e,eventName:"htmx:abort",handler:r})}#I(e,t,r){let{persistentIds:i,idMap:s}=this.#ot(e,t),n=document.createElement("div");n.hidden=!0,document.body.after(n);let o={target:e,idMap:s,persistentIds:i,pantry:n,futureMatches:new WeakSet};r?this.#at(o,e,t):this.#at(o,e.parentNode,t,e,e.nextSibling),this.#Se(n),n.remove()}#at(e,t,r,i=null,s=null){t instanceof HTMLTemplateElement&&r instanceof HTMLTemplateElement&&(t=t.content,r=r.content),i||=t.firstChild;let n=r.firstChild;for(;n;){let r;if(i&&i!=s&&(r=this.#lt(e,n,i,s),r&&r!==i)){let o=i;for(;o&&o!==r;){let r=o;o=o.nextSibling,r instanceof Element&&(e.idMap.has(r)||this.#ht(e,r,n))?this.#Ce(t,r,s):this.#ct(e,r)}}if(!r&&n instanceof Element&&e.persistentIds.has(n.id)){let s=CSS.escape(n.id);r=e.target.id===n.id&&e.target||e.target.querySelector(`[id="${s}"]`)||e.pantry.querySelector(`[id="${s}"]`);let o=r;for(;o=o.parentNode;){let t=e.idMap.get(o);t&&(t.delete(r.id),t.size||e.idMap.delete(o))}this.#Ce(t,r,i)}if(r){this.#ut(r,n,e),i=r.nextSibling,n=n.nextSibling;continue}let o=n.nextSibling;if(e.idMap.has(n)){let r=document.createElement(n.tagName);t.insertBefore(r,i),this.#ut(r,n,e),this.process(r),i=r.nextSibling}else t.insertBefore(n,i),i=n.nextSibling;n=o}for(;i&&i!=s;){let t=i;i=i.nextSibling,this.#ct(e,t)}}#ht(e,t,r){if(e.futureMatches.has(t))return!0;for(let i=r.nextSibling,s=0;i&&s<this.config.morphScanLimit;i=i.nextSibling,s++)if(i instanceof Element&&t.isEqualNode(i))return e.futureMatches.add(t),!0;return!1}#lt(e,t,r,i){if(3===t.nodeType)return 3===r?.nodeType?r:null;if(!(t instanceof Element))return null;let s=null,n=0,o=this.config.morphScanLimit,a=e.idMap.get(t),l=a?.size||0;if(t.id&&!a)return null;let h=r;for(;h&&h!=i;){let r=e.idMap.get(h);if(this.#o.isSoftMatch(h,t)){if(r&&a&&[...r].some(e=>a.has(e)))return h;if(!r){if(o>0&&h.isEqualNode(t))return h;s||(s=h)}}if(n+=r?.size||0,n>l)break;if(null!=document.activeElement?.selectionStart&&h.contains(document.activeElement))break;if(--o<1&&0===l)break;h=h.nextSibling}return s&&this.#ht(e,s,t)?null:s}#M(e,t){return e instanceof Element&&e.tagName===t.tagName&&(!("SCRIPT"===e.tagName&&!e.isEqualNode(t))&&(!e.id||e.id===t.id))}#ct(e,t){e.idMap.has(t)?this.#Ce(e.pantry,t,null):(this.#Se(t),t.remove())}#Ce(e,t,r){if(e.moveBefore)try{return void e.moveBefore(t,r)}catch(e){}e.insertBefore(t,r)}#ut(e,t,r){if(3===e.nodeType)return void(e.nodeValue!==t.nodeValue&&(e.nodeValue=t.nodeValue));if(this.config.morphSkip&&e.matches?.(this.config.morphSkip))return;if(!this.#$(e,"htmx:before:morph:node",{oldNode:e,newNode:t}))return;this.#Je(e,t),e instanceof HTMLTextAreaElement&&document.activeElement!==e&&e.defaultValue!=t.defaultValue&&(e.value=t.value),this.config.morphSkipChildren&&e.matches?.(this.config.morphSkipChildren)||e.isEqualNode(t)&&"TEMPLATE"!==t.tagName&&!t.querySelector?.("template")||this.#at(r,e,t)}#Je(e,t){let r=this.config.morphIgnore||[],i=!1,s=e=>this.#v("hx-").some(t=>e.startsWith(t));for(const n of t.attributes)if(!r.some(e=>n.name.startsWith(e))&&e.getAttribute(n.name)!==n.value){if(s(n.name)&&(i=!0),!this.#$(e,"htmx:before:morph:attr",{attrName:n.name,newValue:n.value}))continue;e.setAttribute(n.name,n.value),"value"===n.name&&e instanceof HTMLInputElement&&"file"!==e.type&&document.activeElement!==e&&(e.value=n.value)}for(let n=e.attributes.length-1;n>=0;n--){let o=e.attributes[n];if(o&&!t.hasAttribute(o.name)&&!r.some(e=>o.name.startsWith(e))){if(s(o.name)&&(i=!0),!this.#$(e,"htmx:before:morph:attr",{attrName:o.name,newValue:null}))continue;e.removeAttribute(o.name)}}i&&this.#Se(e,!0)}#dt(e,t,r,i){for(const s of i)if(t.has(s.id)){let t=s;for(;t&&t!==r;){let r=e.get(t);null==r&&(r=new Set,e.set(t,r)),r.add(s.id),t=t.parentElement}}}#ot(e,t){let r=this.#j(e,"[id]"),i=t.querySelectorAll("[id]"),s=this.#ft(r,i),n=new Map;return this.#dt(n,s,e.parentElement,r),this.#dt(n,s,t,i),{persistentIds:s,idMap:n}}#ft(e,t){let r=new Set,i=new Map;for(const{id:t,tagName:s}of e)i.has(t)?r.add(t):t&&i.set(t,s);let s=new Set;for(const{id:e,tagName:n}of t)s.has(e)?r.add(e):i.get(e)===n&&s.add(e);for(const e of r)s.delete(e);return s}#fe(t){let r=t.response.raw.status,i=this.config.noSwap.map(e=>e+""),s=r+"";for(let r of[s,s.slice(0,2)+"x",s[0]+"xx"]){if(i.includes(r))return void(t.swap="none");let s=this.#E(t.sourceElement,"hx-status:"+r);if(s)return void e.merge(s,t)}}#_e(e,t){return new Promise(r=>{this.#m||=[],this.#m.push({task:e,resolve:r,ctx:t}),this.#x||this.#mt()})}async#mt(){if(0===this.#m.length||this.#x)return;this.#x=!0;let{task:e,resolve:t,ctx:r}=this.#m.shift();try{if(document.startViewTransition){let t={task:e,ctx:r};this.#L(r.sourceElement,"htmx:before:viewTransition",t),await document.startViewTransition(t.task).finished,this.#L(r.sourceElement,"htmx:after:viewTransition",t)}else await e()}catch(e){}finally{this.#x=!1,t(),this.#mt()}}#Qe(e,t){let r=["class","style","width","height"],i=t.querySelectorAll("[id]"),s=Object.fromEntries([...i].map(e=>[e.id,e])),n=e.querySelectorAll("[id]"),o=[];for(let e of n){let t=s[e.id];if(t?.tagName===e.tagName){let i=e.cloneNode(!1);for(let i of r)t.hasAttribute(i)?e.setAttribute(i,t.getAttribute(i)):e.removeAttribute(i);o.push(()=>{this.#Je(e,i)})}}return o}#Ue(e,t){e?.classList?.add?.(t)}#Xe(e,t){e?.classList?.remove?.(t),0===e?.classList?.length&&e.removeAttribute("class")}#Ge(e){return"string"==typeof e?this.find(e):e}#F(e){return this.config.metaCharacter?e.replace(/:/g,this.config.metaCharacter):e}}})();
// A form being filled, in public and in the rehearsal: what the respondent has
// touched, and that after every answer of the server each control says what the
// outcome says, except where the respondent has gone on since it was asked.
(() => {
  // What was done to each control, counted, so that an answer is never put over
  // what is newer than the question that it answers.
  let count = 0;
  const changed = new Map();
  const inForm = (node) => node.form && (node.form.id === "fill" || node.form.id === "rehearse");
  const touch = (event) => {
    const control = event.target;
    if (!control.name || !inForm(control)) return;
    changed.set(control.name, ++count);
    const unit = control.closest(".unit");
    for (const own of unit?.querySelectorAll("[data-own]") ?? []) own.value = "yes";
    // Another pick takes the place of one that is set aside; of several picks it does not.
    if (control.type === "radio" || control.type === "select-one") for (const aside of unit?.querySelectorAll("[data-aside]") ?? []) aside.remove();
  };
  document.addEventListener("input", touch, true);
  document.addEventListener("change", touch, true);
  // Who presses a choice that stands there by itself chooses it, though a browser
  // sees no change in that.
  document.addEventListener("click", (event) => {
    const own = event.target.type === "radio" && inForm(event.target) && event.target.closest(".unit")?.querySelector("[data-own]");
    if (own && !own.value) event.target.dispatchEvent(new Event("change", { bubbles: true }));
  });

  const picks = (control) => control.type === "checkbox" || control.type === "radio";
  const keyOf = (control) => (picks(control) ? control.name + "=" + control.value : control.name);
  const controls = (root) => [...(root?.querySelectorAll("input[name], select[name], textarea[name]") ?? [])].filter((c) => c.type !== "file" && inForm(c));
  const stateOf = (control) => {
    if (picks(control)) return control.checked;
    if (control.tagName === "SELECT") return [...control.options].filter((o) => o.selected).map((o) => o.value);
    return control.value;
  };
  const setState = (control, state) => {
    if (picks(control)) control.checked = state;
    else if (control.tagName === "SELECT") for (const o of control.options) o.selected = state.includes(o.value);
    else if (control.value !== state) {
      const at = control === document.activeElement && control.selectionStart;
      control.value = state;
      if (typeof at === "number") try { control.setSelectionRange(at, at); } catch { /* a field without a caret */ }
    }
  };
  const said = (control) => {
    if (picks(control)) return control.defaultChecked;
    if (control.tagName === "SELECT") {
      const chosen = [...control.options].filter((o) => o.defaultSelected).map((o) => o.value);
      return chosen.length || control.multiple ? chosen : [control.options[0]?.value];
    }
    return control.defaultValue;
  };

  document.addEventListener("htmx:before:request", (event) => {
    const ctx = event.detail?.ctx;
    if (ctx) ctx.asked = count;
  });
  // What is newer than the question, as it stands before the answer is put in.
  document.addEventListener("htmx:before:swap", (event) => {
    const { ctx, tasks } = event.detail ?? {};
    if (!ctx) return;
    ctx.swapped = (tasks ?? []).map((task) => task.target?.id).filter(Boolean);
    ctx.newer = new Map();
    for (const form of [document.getElementById("fill"), document.getElementById("rehearse")]) {
      for (const c of controls(form)) if ((changed.get(c.name) ?? 0) > (ctx.asked ?? 0)) ctx.newer.set(keyOf(c), stateOf(c));
    }
  });
  document.addEventListener("htmx:after:swap", (event) => {
    const ctx = event.detail?.ctx;
    if (!ctx?.swapped) return;
    for (const id of ctx.swapped) {
      for (const c of controls(document.getElementById(id))) {
        const newer = ctx.newer.has(keyOf(c));
        setState(c, newer ? ctx.newer.get(keyOf(c)) : said(c));
        if (newer) for (const own of c.closest(".unit")?.querySelectorAll("[data-own]") ?? []) own.value = "yes";
      }
      // What was sent is not sent again with the page.
      for (const file of document.getElementById(id)?.querySelectorAll("[data-file]") ?? []) if (file.parentElement.querySelector('[name$=".id"]')) file.value = "";
      const focus = document.getElementById(id)?.querySelector("[data-focus]");
      if (focus) (focus.matches("button") ? focus : focus.querySelector("input:not([type=hidden]), select, textarea"))?.focus();
    }
  });

  // Who looks for a choice goes on with it by Enter, rather than to the next page.
  for (const type of ["keydown", "keypress"]) document.addEventListener(type, (event) => {
    if (event.key === "Enter" && event.target.matches?.("[data-find]")) event.preventDefault();
  });

  // A date is pasted as people write it; browsers take none but their own way.
  document.addEventListener("paste", (event) => {
    if (!event.target.matches?.("input[type=date]")) return;
    const text = event.clipboardData?.getData("text").trim() ?? "";
    const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(text), other = /^(\d{1,2})\s*[./ -]\s*(\d{1,2})\s*[./ -]\s*(\d{4})$/.exec(text);
    if (!iso && !other) return;
    const monthFirst = document.documentElement.lang === "en-US" || (document.documentElement.lang === "en" && text.includes("/") && navigator.language === "en-US");
    const [year, month, day] = iso ? iso.slice(1) : monthFirst ? [other[3], other[1], other[2]] : [other[3], other[2], other[1]];
    event.preventDefault();
    event.target.value = `${year}-${month.padStart(2, "0")}-${day.padStart(2, "0")}`;
    event.target.dispatchEvent(new Event("input", { bubbles: true }));
    event.target.dispatchEvent(new Event("change", { bubbles: true }));
  });

  // A signature can be drawn; the line to type it on is there for everyone.
  const drawing = () => {
    for (const box of document.querySelectorAll(".draw[hidden]")) {
      const canvas = box.querySelector("canvas"), pen = canvas.getContext("2d");
      const field = () => document.getElementById(box.dataset.draw);
      const say = (value) => {
        field().value = value;
        field().dispatchEvent(new Event("input", { bubbles: true }));
      };
      box.hidden = false;
      pen.lineWidth = 3;
      pen.lineCap = "round";
      if (field().value) {
        const before = new Image();
        before.addEventListener("load", () => pen.drawImage(before, 0, 0));
        before.src = field().value;
      }
      let down = false;
      const at = (event) => {
        const r = canvas.getBoundingClientRect();
        return [(event.clientX - r.left) * canvas.width / r.width, (event.clientY - r.top) * canvas.height / r.height];
      };
      canvas.addEventListener("pointerdown", (event) => { down = true; canvas.setPointerCapture(event.pointerId); pen.beginPath(); pen.moveTo(...at(event)); });
      canvas.addEventListener("pointermove", (event) => { if (down) { pen.lineTo(...at(event)); pen.stroke(); } });
      canvas.addEventListener("pointerup", () => { down = false; say(canvas.toDataURL("image/png")); });
      box.querySelector("button").addEventListener("click", () => { pen.clearRect(0, 0, canvas.width, canvas.height); say(""); });
    }
  };
  document.addEventListener("htmx:after:swap", drawing);
  document.addEventListener("DOMContentLoaded", drawing);

  // One of several buttons can be taken back where no answer is needed, and what is
  // sensitive is looked at while its button is pressed in.
  document.addEventListener("click", (event) => {
    const clear = event.target.closest?.("[data-clear]"), reveal = event.target.closest?.("[data-reveal]");
    if (clear) {
      const picked = clear.closest("fieldset").querySelector("input[type=radio]:checked");
      if (!picked) return;
      picked.checked = false;
      picked.focus();
      for (const kind of ["input", "change"]) picked.dispatchEvent(new Event(kind, { bubbles: true }));
    } else if (reveal) {
      const shown = reveal.getAttribute("aria-pressed") !== "true";
      reveal.setAttribute("aria-pressed", String(shown));
      document.getElementById(reveal.dataset.reveal)?.classList.toggle("looked-at", shown);
    }
  });
})();
// Writing a text that people read: after “{” a menu offers the questions, and the one that
// is picked stands there with its key. The menu goes by keys alone as well.
(() => {
  const takes = (field) => field.matches?.("input:not([type=checkbox]):not([type=radio]), textarea")
    && (field.hasAttribute("data-answers") || field.form?.elements.namedItem("property")?.hasAttribute?.("data-answers"));
  const names = () => [...document.querySelectorAll("#subjects option")].map((o) => ({ label: o.value, key: o.textContent }));
  let menu = null, field = null, at = 0; // the place behind the brace
  let picked = null; // the field that an Enter has just filled, which is not to be sent by it

  const close = () => {
    menu?.remove();
    menu = null;
    field?.removeAttribute("aria-controls");
    field?.removeAttribute("aria-activedescendant");
    field = null;
  };
  // origin is where the places of something that stands absolutely are counted from.
  const origin = (placed) => {
    const parent = placed.offsetParent, held = parent && getComputedStyle(parent).position !== "static";
    const box = (held ? parent : document.documentElement).getBoundingClientRect();
    return held ? { left: box.left + parent.clientLeft - parent.scrollLeft, top: box.top + parent.clientTop - parent.scrollTop } : box;
  };
  const options = () => [...menu.querySelectorAll("[role=option]")];
  const mark = (option) => {
    for (const o of options()) o.setAttribute("aria-selected", String(o === option));
    field.setAttribute("aria-activedescendant", option.id);
    option.scrollIntoView({ block: "nearest" });
  };
  const marked = () => menu.querySelector("[aria-selected=true]");
  const pick = (option) => {
    const into = field, key = option.dataset.key + "}";
    into.setRangeText(key, at, into.selectionStart, "end");
    if (into.value[into.selectionStart] === "}") into.setRangeText("", into.selectionStart, into.selectionStart + 1, "end");
    close();
    into.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const open = (control) => {
    const before = control.value.slice(0, control.selectionStart), brace = before.lastIndexOf("{");
    const typed = before.slice(brace + 1);
    if (brace < 0 || before[brace - 1] === "{" || /[}{\n]/.test(typed) || typed.length > 40) {
      close();
      return;
    }
    const wanted = typed.toLowerCase(), says = (n) => (n.label + " " + n.key).toLowerCase();
    const fits = names().filter((n) => says(n).includes(wanted)).sort((a, b) => Number(says(b).startsWith(wanted)) - Number(says(a).startsWith(wanted))).slice(0, 12);
    close();
    if (!fits.length) return;
    field = control;
    at = brace + 1;
    menu = document.createElement("ul");
    menu.id = "answers-menu";
    menu.className = "answers-menu";
    menu.setAttribute("role", "listbox");
    menu.setAttribute("aria-label", "Answers to insert");
    fits.forEach((n, i) => {
      const option = document.createElement("li");
      option.id = "answer-" + i;
      option.setAttribute("role", "option");
      option.dataset.key = n.key;
      option.textContent = n.label;
      menu.append(option);
    });
    (control.closest("main, aside, dialog") ?? document.body).append(menu); // a landmark holds it, as it holds its field
    const below = control.getBoundingClientRect(), home = origin(menu);
    menu.style.left = below.left - home.left + "px";
    menu.style.top = below.bottom - home.top + 4 + "px";
    control.setAttribute("aria-controls", menu.id);
    mark(options()[0]);
  };

  document.addEventListener("input", (event) => { if (takes(event.target)) open(event.target); });
  document.addEventListener("focusout", (event) => { if (event.target === field) close(); });
  document.addEventListener("mousedown", (event) => { // before the field is left, or it would be saved half
    const option = menu && event.target.closest?.("#answers-menu [role=option]");
    if (!option) return;
    event.preventDefault();
    pick(option);
  });
  document.addEventListener("keypress", (event) => {
    if (event.key === "Enter" && event.target === picked) event.preventDefault();
  }, true);
  document.addEventListener("keyup", () => { picked = null; }, true);
  document.addEventListener("keydown", (event) => {
    if (!menu || event.target !== field) return;
    if (event.key === "Enter") picked = field;
    const all = options(), n = all.indexOf(marked());
    if (event.key === "ArrowDown") mark(all[(n + 1) % all.length]);
    else if (event.key === "ArrowUp") mark(all[(n + all.length - 1) % all.length]);
    else if (event.key === "Enter" || event.key === "Tab") pick(marked());
    else if (event.key === "Escape") close();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }, true);
})();
// Arcs run from a question's right edge to the margin lines that name it. They are drawn
// once, for the whole manuscript, and stay as it is scrolled. What runs from one question
// to many places runs as one, in a lane of its own; of what is far away only the ends are
// drawn, until one points at it.
(() => {
  const FEW = 3; // arcs of a question up to which each is drawn by itself
  const FAR = 720; // pixels from end to end beyond which only the ends are drawn
  const STUB = 34; // pixels of such an end
  const lane = { first: 12, wide: 7, last: 22 }; // pixels from the sheet, between lanes, before the margin

  // measure reads where everything is, before anything is changed.
  function measure(doc) {
    const origin = doc.getBoundingClientRect(), rows = new Map(), sources = new Map();
    for (const row of doc.querySelectorAll(".row[id]")) rows.set(row.id.slice(4), row);
    for (const tie of doc.querySelectorAll("[data-sources]")) {
      const to = tie.closest(".row"), knot = (tie.querySelector(".knot") ?? tie).getBoundingClientRect();
      const x = knot.left - origin.left - 4, y = knot.top - origin.top + Math.min(knot.height / 2, 15);
      for (const key of new Set(tie.dataset.sources.split(" "))) {
        const from = rows.get(key);
        if (!from || from === to) continue;
        if (!sources.has(key)) sources.set(key, { id: from.id, y: from.getBoundingClientRect().top - origin.top + 18, ends: [] });
        sources.get(key).ends.push({ id: to.id, x, y });
      }
    }
    return [...sources.values()];
  }

  // lanes gives each question that drives many a place between sheet and margin that no
  // other has where it runs.
  function lanes(sources, x1, x2) {
    const places = Math.max(1, Math.floor((x2 - x1 - lane.first - lane.last) / lane.wide)), until = Array(places).fill(-Infinity);
    for (const source of sources.toSorted((a, b) => a.y - b.y)) {
      if (source.ends.length <= FEW) continue;
      const low = Math.max(source.y, ...source.ends.map((e) => e.y));
      let at = until.findIndex((end) => end < Math.min(source.y, ...source.ends.map((e) => e.y)));
      if (at < 0) at = until.indexOf(Math.min(...until));
      until[at] = Math.max(until[at], low);
      source.lane = x1 + lane.first + at * lane.wide;
    }
  }

  const round = (n) => Math.round(n * 10) / 10;
  // arc is one on its own; along is one that runs in the lane of its question.
  const arc = (x1, y1, x2, y2) => {
    const reach = Math.min(52, (x2 - x1) * 0.7);
    return `M${round(x1)} ${round(y1)}C${round(x1 + reach)} ${round(y1)} ${round(x2 - reach)} ${round(y2)} ${round(x2)} ${round(y2)}`;
  };
  const along = (x1, y1, x, x2, y2) => {
    const bend = Math.min(12, Math.abs(y2 - y1) / 2) * Math.sign(y2 - y1);
    return `M${round(x1)} ${round(y1)}Q${round(x)} ${round(y1)} ${round(x)} ${round(y1 + bend)}V${round(y2 - bend)}Q${round(x)} ${round(y2)} ${round(x2)} ${round(y2)}`;
  };
  // ends are the beginning and the end of an arc whose middle is left out.
  const ends = (x1, y1, x2, y2) => {
    const down = Math.sign(y2 - y1), x = x1 + 16, z = x2 - 16;
    return `M${round(x1)} ${round(y1)}Q${round(x)} ${round(y1)} ${round(x)} ${round(y1 + down * STUB)}M${round(z)} ${round(y2 - down * STUB)}Q${round(z)} ${round(y2)} ${round(x2)} ${round(y2)}`;
  };

  function draw() {
    const svg = document.getElementById("arcs"), doc = document.getElementById("doc"), first = doc?.querySelector(".row");
    if (!svg || !doc || !first || getComputedStyle(svg).display === "none") { svg?.replaceChildren(); return; }
    const x1 = first.getBoundingClientRect().left + parseFloat(getComputedStyle(first).gridTemplateColumns) - doc.getBoundingClientRect().left;
    const sources = measure(doc);
    if (!sources.length) { svg.replaceChildren(); return; }
    lanes(sources, x1, Math.min(...sources.flatMap((s) => s.ends.map((e) => e.x))));
    const parts = [];
    for (const s of sources) {
      parts.push(`<g data-from="${s.id}">`);
      for (const e of s.ends) {
        const whole = s.lane ? along(x1, s.y, s.lane, e.x, e.y) : arc(x1, s.y, e.x, e.y), far = Math.abs(e.y - s.y) > FAR;
        parts.push(`<path d="${far ? ends(x1, s.y, e.x, e.y) : whole}"${far ? ` class="far" data-whole="${whole}"` : ""} data-to="${e.id}"/>`);
      }
      parts.push(`<circle cx="${round(x1)}" cy="${round(s.y)}" r="3.6"/></g>`);
    }
    svg.innerHTML = parts.join("") + '<g class="hot"></g>';
    heat(null);
  }

  // The arcs of the row pointed at, else of the one selected, stand out, drawn whole.
  function heat(pointed) {
    const svg = document.getElementById("arcs"), over = svg?.querySelector(".hot");
    if (!over) return;
    const row = pointed ?? document.querySelector(".row.sel");
    svg.classList.toggle("pointed", Boolean(row));
    over.replaceChildren();
    if (!row) return;
    const lines = new Map();
    for (const path of svg.querySelectorAll(`g[data-from="${row.id}"] path, path[data-to="${row.id}"]`))
      lines.set(path.parentNode, (lines.get(path.parentNode) ?? "") + (path.dataset.whole ?? path.getAttribute("d")));
    for (const [of, d] of lines) {
      const line = of.querySelector("path").cloneNode();
      line.setAttribute("d", d);
      over.append(line, of.querySelector("circle").cloneNode());
    }
  }

  let drawing;
  const later = () => { cancelAnimationFrame(drawing); drawing = requestAnimationFrame(draw); };
  const grown = new ResizeObserver(later);
  const watch = () => { const doc = document.getElementById("doc"); grown.disconnect(); if (doc) grown.observe(doc); later(); };
  document.addEventListener("DOMContentLoaded", watch);
  document.addEventListener("htmx:after:swap", watch);
  document.fonts?.ready.then(later);
  const point = (event) => { const row = event.target.closest?.(".doc .row"); if (row) heat(row); };
  document.addEventListener("pointerover", point);
  document.addEventListener("focusin", point);
  document.addEventListener("pointerout", (event) => { if (!event.relatedTarget?.closest?.(".row")) heat(null); });
})();
// Finding in the manuscript: what is typed is looked for in labels, keys, texts and ties,
// and Enter opens what was found. Everything stands in the page already, so that nothing is
// asked of the server.
(() => {
  const SHOWN = 40;
  const plain = (text) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
  const words = (node) => (node?.textContent ?? "").replace(/\s+/g, " ").trim();

  // rows are all lines that can be opened, with what they say.
  const rows = () => [...document.querySelectorAll("#doc .row[id]")].map((row) => {
    const open = row.querySelector("[name=property][value=label], [name=property][value=title]")?.form?.elements.value;
    const label = words(row.querySelector(".pick-row")) || open?.value || row.id.slice(4);
    const more = [...row.querySelectorAll(".c, .m li, .remark")].map(words).filter(Boolean);
    return { row, label, more, text: plain([label, row.dataset.key ?? "", ...more].join(" ")) };
  });

  function close() { document.querySelector("dialog.find")?.remove(); }

  function open() {
    close();
    const all = rows(), box = document.createElement("dialog");
    box.className = "keys find";
    box.setAttribute("aria-label", "Find in the form");
    box.innerHTML = `<input class="find-words" type="search" role="combobox" aria-expanded="true" aria-controls="found" aria-label="Find in the form"
      placeholder="A question, a key, a word of a tie" autocomplete="off" spellcheck="false"><p role="status" class="find-said"></p><ul id="found" role="listbox"></ul>`;
    document.body.append(box);
    const field = box.querySelector("input"), list = box.querySelector("ul"), said = box.querySelector("p");
    let found = [], at = 0;
    const mark = () => {
      [...list.children].forEach((li, i) => li.setAttribute("aria-selected", String(i === at)));
      const on = list.children[at];
      field.setAttribute("aria-activedescendant", on?.id ?? "");
      on?.scrollIntoView({ block: "nearest" });
    };
    const look = () => {
      const asked = plain(field.value.replace(/^\//, "")).split(/\s+/).filter(Boolean);
      found = all.filter((one) => asked.every((word) => one.text.includes(word)));
      const first = (one) => (asked.every((word) => plain(one.label).includes(word)) ? 0 : 1);
      found.sort((a, b) => first(a) - first(b));
      list.replaceChildren(...found.slice(0, SHOWN).map((one, i) => {
        const li = document.createElement("li"), name = document.createElement("b"), why = document.createElement("span");
        li.id = "found-" + i;
        li.setAttribute("role", "option");
        name.textContent = one.label;
        why.textContent = one.more.find((text) => asked.some((word) => plain(text).includes(word))) ?? one.more[0] ?? "";
        li.append(name, why);
        li.addEventListener("click", () => go(one));
        return li;
      }));
      said.textContent = found.length > SHOWN ? `${found.length} found, the first ${SHOWN} are shown` : found.length === 1 ? "One found" : found.length ? `${found.length} found` : "Nothing here is like this";
      at = 0;
      mark();
    };
    const go = (one) => {
      close();
      one.row.scrollIntoView({ block: "center" });
      const link = one.row.querySelector(".pick-row");
      if (link) link.click(); else one.row.querySelector("input:not([type=hidden], .mark-box), textarea")?.focus();
    };
    field.addEventListener("input", look);
    box.addEventListener("keydown", (event) => {
      if (event.key === "ArrowDown" || event.key === "ArrowUp") {
        event.preventDefault();
        at = Math.max(0, Math.min(list.children.length - 1, at + (event.key === "ArrowDown" ? 1 : -1)));
        mark();
      } else if (event.key === "Enter" && found[at]) { event.preventDefault(); go(found[at]); }
      else if (event.key === "Escape") { event.preventDefault(); event.stopPropagation(); close(); } // at once, whatever was typed
    });
    box.addEventListener("close", close);
    box.showModal();
    look();
  }

  document.addEventListener("click", (event) => { if (event.target.closest?.("#find-in-form")) open(); });
})();
// What counts when a field is left rather than at every key: a menu, in which the arrow
// keys pass over options that nobody chose, and a date or time, which browsers call changed
// while it is being typed, when its year is still 2 or 20.
(() => {
  const menus = ".ms select, #marked select, form.condition select";
  const dates = "input[type=date], input[type=time], input[type=datetime-local], input[type=month]";
  const passesBy = (field) => field.matches?.(menus) || field.matches?.(dates);
  const moves = (event) => /^(Arrow|Page|Home|End|Back|Delete)/.test(event.key) || event.key.length === 1 && event.key !== " ";

  let passing = null; // the field that the keyboard is in
  let passed = false; // and whether it says something else since; not on the field, which a page that is put in anew would clear
  document.addEventListener("keydown", (event) => {
    const field = event.target;
    if (!passesBy(field)) return;
    if (moves(event)) {
      if (passing !== field) passed = false;
      passing = field;
    } else if (event.key === "Enter" && passing === field) {
      if (savesItself(field)) event.preventDefault();
      chosen();
    }
  }, true);
  // A menu that opens and a calendar give a whole value at once.
  document.addEventListener("pointerdown", () => { passing = null; }, true);
  const savesItself = (field) => field.matches(menus) || field.closest("[hx-trigger*=change]");
  const chosen = () => {
    const field = passing;
    passing = null;
    if (!field || !passed) return;
    passed = false;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  };
  document.addEventListener("change", (event) => {
    const field = event.target;
    if (field === passing) {
      event.stopImmediatePropagation();
      passed = true;
    } else if (field.matches?.(dates) && strange(field)) {
      event.stopImmediatePropagation();
      ask(field);
    }
  }, true);
  document.addEventListener("focusout", (event) => { if (event.target === passing) chosen(); });

  // A year that is hardly meant is asked about once, before anything is made of it.
  const sure = new WeakMap(); // what was said to be right
  const year = (field) => Number(/^(\d+)-/.exec(field.value)?.[1]);
  const strange = (field) => !field.closest(".unit") && (year(field) < 1900 || year(field) > 2200) && sure.get(field) !== field.value;
  const asked = (field) => field.nextElementSibling?.matches(".ask-year") && field.nextElementSibling;
  const ask = (field) => {
    asked(field)?.remove();
    const box = document.createElement("span"), keep = document.createElement("button");
    box.className = "ask-year";
    box.setAttribute("role", "alert");
    box.append(`Is the year ${year(field)} right? `, keep);
    keep.type = "button";
    keep.className = "quiet";
    keep.textContent = `Keep ${year(field)}`;
    keep.addEventListener("click", () => {
      sure.set(field, field.value);
      box.remove();
      field.focus();
      field.dispatchEvent(new Event("change", { bubbles: true }));
    });
    field.after(box);
  };
  document.addEventListener("input", (event) => { if (event.target.matches?.(dates)) asked(event.target)?.remove(); });
  document.addEventListener("submit", (event) => {
    const odd = [...event.target.querySelectorAll(dates)].find((field) => strange(field));
    if (!odd) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    ask(odd);
    odd.focus();
  }, true);
})();
// Several questions of the manuscript at once: they are marked, dragged to another line, and
// moved by the keyboard over the borders of sections and pages.
/* exported marks */
/* eslint no-redeclare: ["error", { "builtinGlobals": false }] */
var marks = (() => {
  // post makes a change of the draft.
  const post = (form, fields) => {
    const values = new URLSearchParams();
    for (const name of ["version", "was", "wastied"]) values.set(name, document.querySelector(`#draft-state [name=${name}]`)?.value ?? "");
    const faulty = document.querySelector("#draft-state [name=faulty]");
    if (faulty) values.set("faulty", "yes");
    const body = {};
    for (const [name, value] of values) body[name] = value;
    htmx.ajax("POST", form + "/edit", { target: "#desk", swap: "outerMorph", values: { ...body, ...fields } });
  };
  const form = () => document.getElementById("desk").dataset.form;

  const boxes = () => [...document.querySelectorAll(".mark-box")];
  const marked = () => boxes().filter((box) => box.checked).map((box) => box.value);
  // How many are marked is said; with Shift, all between two are.
  const count = () => {
    const n = marked().length, bar = document.getElementById("marked-count");
    if (bar) bar.textContent = n + " marked:";
    document.body.classList.toggle("marking", n > 0);
  };
  let last;
  document.addEventListener("click", (event) => {
    if (event.target.id === "unmark") { for (const box of boxes()) box.checked = false; count(); return; }
    if (!event.target.matches?.(".mark-box")) return;
    if (event.shiftKey && last) {
      const all = boxes(), [from, to] = [all.findIndex((b) => b.value === last), all.indexOf(event.target)].sort((x, y) => x - y);
      if (from >= 0) for (const box of all.slice(from, to + 1)) box.checked = event.target.checked;
    }
    last = event.target.value;
    count();
  });

  // What is dragged is the question that was taken, with all others that are marked if it is.
  let dragged = [];
  const rowOf = (key) => document.getElementById("row-" + key);
  document.addEventListener("dragstart", (event) => {
    const row = event.target.closest?.(".row.item");
    if (!row) return;
    dragged = marked().includes(row.dataset.key) ? marked() : [row.dataset.key];
    for (const key of dragged) rowOf(key)?.classList.add("dragged");
    event.dataTransfer?.setData("text/plain", row.querySelector(".pick-row")?.textContent ?? "");
  });
  // On the title of a page or section it goes to the beginning of what follows.
  const begins = (head) => {
    const items = [...document.querySelectorAll(".items")].find((list) => head.compareDocumentPosition(list) & Node.DOCUMENT_POSITION_FOLLOWING);
    const first = items && [...items.querySelectorAll(".row.item")].find((row) => !dragged.includes(row.dataset.key));
    return first ? { row: first, behind: false } : items ? { items } : null;
  };
  const place = (event) => {
    const head = event.target.closest?.(".row.head, .row.sub");
    if (head) return begins(head);
    const row = event.target.closest?.(".row.item"), items = event.target.closest?.(".items");
    if (row && !dragged.includes(row.dataset.key))
      return { row, behind: event.clientY >= row.getBoundingClientRect().top + row.offsetHeight / 2 };
    return items && !row ? { items } : null;
  };
  const unmark = () => document.querySelectorAll(".drop-before, .drop-after, .drop-into").forEach((row) => row.classList.remove("drop-before", "drop-after", "drop-into"));
  document.addEventListener("dragover", (event) => {
    const to = dragged.length && place(event);
    if (!to) return;
    event.preventDefault();
    unmark();
    to.row?.classList.add(to.behind ? "drop-after" : "drop-before");
    to.items?.classList.add("drop-into");
  });
  document.addEventListener("drop", (event) => {
    const to = dragged.length && place(event);
    if (!to) return;
    event.preventDefault();
    move(dragged, to.row ? { beside: to.row.dataset.key, behind: to.behind ? "true" : "" } : { into: to.items.dataset.section });
  });
  document.addEventListener("dragend", () => { for (const key of dragged) rowOf(key)?.classList.remove("dragged"); dragged = []; unmark(); });

  const move = (keys, to) => post(form(), { do: "move", mark: keys.join(","), ...to, at: document.querySelector(".row.sel")?.dataset.key ?? "" });

  // moveMarked moves what is marked by one line, and over the border of a section into the
  // next one; false if nothing is.
  const moveMarked = (up) => {
    const keys = marked();
    if (!keys.length) return false;
    const rows = keys.map(rowOf).filter(Boolean), edge = up ? rows[0] : rows.at(-1);
    const next = up ? edge.previousElementSibling : edge.nextElementSibling;
    if (next?.matches(".row.item")) { move(keys, { beside: next.dataset.key, behind: up ? "" : "true" }); return true; }
    const all = [...document.querySelectorAll(".items")], items = all[all.indexOf(edge.closest(".items")) + (up ? -1 : 1)];
    if (!items) return true;
    const first = items.querySelector(".row.item");
    move(keys, up || !first ? { into: items.dataset.section } : { beside: first.dataset.key, behind: "" });
    return true;
  };

  // What is copied or cut is only named; it is looked up where it is pasted, which can be in
  // another form. It comes behind the question that is open or in focus.
  const held = "lazo-copied";
  const chosen = () => {
    const row = document.activeElement?.closest?.(".row.item") ?? document.querySelector(".row.item.sel");
    return marked().length ? marked() : row ? [row.dataset.key] : [];
  };
  const copy = (event) => {
    if (!document.getElementById("doc") || /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName) && !event.target.matches(".mark-box")) return;
    if (!getSelection()?.isCollapsed) return;
    const keys = chosen();
    if (!keys.length) return;
    event.preventDefault();
    const from = form().split("/").pop();
    try { localStorage.setItem(held, JSON.stringify({ from, keys, cut: event.type === "cut" })); } catch { return; }
    event.clipboardData?.setData("text/plain", keys.map((key) => rowOf(key)?.querySelector(".pick-row")?.textContent ?? key).join("\n"));
    say(`${keys.length === 1 ? "One question" : keys.length + " questions"} ${event.type === "cut" ? "cut" : "copied"}; Ctrl+V puts ${keys.length === 1 ? "it" : "them"} elsewhere, in another form too`);
  };
  document.addEventListener("copy", copy);
  document.addEventListener("cut", copy);
  document.addEventListener("paste", (event) => {
    if (!document.getElementById("doc") || /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName) && !event.target.matches(".mark-box")) return;
    let it = null;
    try { it = JSON.parse(localStorage.getItem(held)); } catch { /* nothing was copied */ }
    if (!it) return;
    event.preventDefault();
    const row = document.activeElement?.closest?.(".row.item") ?? document.querySelector(".row.item.sel") ?? [...document.querySelectorAll(".row.item")].at(-1);
    const items = document.activeElement?.closest?.(".items") ?? document.querySelector(".items");
    const to = row ? { beside: row.dataset.key } : { into: items?.dataset.section ?? "" };
    if (it.cut) localStorage.removeItem(held);
    if (it.cut && it.from === form().split("/").pop()) { move(it.keys, row ? { ...to, behind: "true" } : to); return; }
    post(form(), { do: "paste", from: it.from, mark: it.keys.join(","), cut: it.cut ? "yes" : "", at: "", ...to });
  });
  const say = (words) => { const node = document.querySelector(".saved"); if (node) node.textContent = words; };

  return { post, count, move: moveMarked };
})();
// The table of responses: how many are marked is said, all can be marked at once, and the
// keys j and k go from one response to the next. A picture of a summary becomes a PNG.
(() => {
  const marks = () => [...document.querySelectorAll("input[name=marked]")];
  const tell = () => {
    const said = document.querySelector("[data-marked]"), n = marks().filter((m) => m.checked).length;
    const text = n + " marked";
    if (said && n && said.textContent !== text) said.textContent = text;
  };
  document.addEventListener("change", (event) => {
    if (event.target.matches?.("[data-marks]")) for (const mark of marks()) mark.checked = event.target.checked;
    if (event.target.matches?.("[data-marks], input[name=marked]")) tell();
  });
  document.addEventListener("keydown", (event) => {
    if (!["j", "k"].includes(event.key) || event.ctrlKey || event.metaKey || event.altKey
      || event.target.matches?.("input:not([type=checkbox]), textarea, select")) return;
    const rows = [...document.querySelectorAll(".row-link")];
    if (rows.length) {
      const at = rows.findIndex((row) => row === document.activeElement || row.closest("tr") === document.activeElement?.closest?.("tr"));
      const next = rows[Math.min(rows.length - 1, Math.max(0, at + (event.key === "j" ? 1 : -1)))];
      next.focus();
      next.scrollIntoView({ block: "nearest" });
      if (document.querySelector("#beside [data-response]")) next.click(); // the one that is open goes along
      return;
    }
    document.querySelector(event.key === "j" ? "a[rel=next]" : "a[rel=prev]")?.click();
  });
  const offer = () => { for (const link of document.querySelectorAll("a[data-png]")) link.hidden = false; };
  document.addEventListener("DOMContentLoaded", offer);
  document.addEventListener("htmx:after:swap", offer);
  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("a[data-png]");
    if (!link) return;
    event.preventDefault();
    const picture = new Image();
    picture.onload = () => {
      const canvas = document.createElement("canvas"), pen = canvas.getContext("2d");
      canvas.width = 2 * picture.naturalWidth;
      canvas.height = 2 * picture.naturalHeight;
      pen.fillStyle = "#fff";
      pen.fillRect(0, 0, canvas.width, canvas.height);
      pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
      canvas.toBlob((blob) => {
        const to = document.createElement("a");
        to.href = URL.createObjectURL(blob);
        to.download = link.dataset.png;
        to.click();
        setTimeout(() => URL.revokeObjectURL(to.href), 10000);
      }, "image/png");
    };
    picture.src = link.href;
  });
})();
// What HTML and htmx cannot do for the desk: dragging, the keyboard, pointing at a reason,
// and keeping what could not be saved.
(() => {
  // Of a file that is only rehearsed its name is sent, as a browser without scripts would.
  document.addEventListener("htmx:config:request", (event) => {
    const { sourceElement, request } = event.detail?.ctx ?? {}, form = sourceElement?.closest?.("form[data-filenames]") ?? sourceElement?.form;
    if (!form?.matches("[data-filenames]")) return;
    for (const input of form.querySelectorAll("input[type=file][name]")) request.body?.set?.(input.name, input.files[0]?.name ?? "");
  });

  // A datalist offers all questions only while its field is empty.
  document.addEventListener("focusin", (event) => {
    if (!event.target.matches?.("input.subject")) return;
    event.target.placeholder = event.target.value;
    event.target.dataset.was = event.target.value;
    event.target.value = "";
  });
  document.addEventListener("focusout", (event) => {
    if (event.target.matches?.("input.subject") && event.target.value.trim() === "") event.target.value = event.target.dataset.was ?? "";
  });

  document.addEventListener("input", (event) => {
    const list = document.getElementById(event.target.dataset?.filters);
    if (!list) return;
    const words = event.target.value.toLowerCase().split(/\s+/);
    for (const label of list.children) label.hidden = !words.every((word) => label.textContent.toLowerCase().includes(word));
  });

  // A tie as it is written: how it reads, and the words that fit, as one types.
  let asking;
  const ask = (area) => {
    clearTimeout(asking);
    asking = setTimeout(() => {
      const fields = area.form.elements;
      htmx.ajax("POST", document.getElementById("desk").dataset.form + "/check", { target: "#" + area.dataset.check, swap: "innerHTML",
        values: { key: fields.key?.value ?? "", property: area.dataset.property ?? fields.property.value, source: area.value, caret: [...area.value.slice(0, area.selectionStart)].length } });
    }, 160);
  };
  document.addEventListener("input", (event) => { if (event.target.matches?.("textarea.writing")) ask(event.target); });
  const complete = (button) => {
    const area = document.querySelector(`textarea[data-check="${button.closest(".checked").id}"]`);
    const all = [...area.value];
    area.value = all.slice(0, Number(button.dataset.from)).join("") + button.dataset.text + all.slice(Number(button.dataset.to)).join("");
    area.focus();
    const caret = [...area.value].slice(0, Number(button.dataset.caret)).join("").length;
    area.setSelectionRange(caret, caret);
    ask(area);
  };
  // Pressing a proposal must not end the writing, or the tie would be saved half.
  document.addEventListener("mousedown", (event) => { if (event.target.closest?.(".complete")) event.preventDefault(); });
  document.addEventListener("click", (event) => { const button = event.target.closest?.(".complete"); if (button) complete(button); });
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Tab" || event.shiftKey || !event.target.matches?.("textarea.writing")) return;
    const first = document.querySelector("#" + event.target.dataset.check + " .complete");
    if (!first) return;
    // One may have typed on since the proposal came.
    const before = [...event.target.value.slice(0, event.target.selectionStart)], word = before.slice(Number(first.dataset.from)).join("").toLowerCase();
    if (Number(first.dataset.to) !== before.length && !(word && first.dataset.text.startsWith(word))) return;
    first.dataset.to = before.length;
    event.preventDefault();
    complete(first);
  });

  const post = marks.post;

  // The keyboard. Typing is never taken for a command.
  const typing = (node) => /^(INPUT|TEXTAREA|SELECT)$/.test(node.tagName);
  const press = (id) => document.getElementById(id)?.click();
  const step = (by) => {
    const rows = [...document.querySelectorAll(".row.item")];
    const here = rows.findIndex((row) => row.classList.contains("sel") || row.contains(document.activeElement));
    rows[Math.max(0, Math.min(rows.length - 1, here + by))]?.querySelector(".pick-row")?.focus();
  };
  const mark = () => {
    const row = document.activeElement?.closest?.(".row.item") ?? document.querySelector(".row.item.sel");
    row?.querySelector(".mark-box")?.click();
  };
  // Esc closes the open question, or leaves the line being written, and goes on
  // from the question that was open or stands before.
  let goTo;
  const leave = (from) => {
    // A tie that is being written is kept first; where that fails it stays open and says so.
    if (from.matches?.("textarea.writing") && from.value !== from.defaultValue) { from.blur(); return; }
    const open = document.querySelector(".row.sel"), rows = [...(from.closest(".items")?.querySelectorAll(".row.item") ?? [])];
    const row = open ?? rows.at(-1);
    if (typing(from)) from.blur();
    if (open && document.getElementById("close")) { goTo = row.id; press("close"); } else row?.querySelector(".pick-row")?.focus();
  };
  // Who opens a question by the keyboard goes on in its first field.
  let byKey = false;
  document.addEventListener("keydown", () => { byKey = true; }, true);
  document.addEventListener("pointerdown", () => { byKey = false; }, true);
  // What is folded leads back to what it was unfolded from; the link itself is gone by then.
  let back;
  document.addEventListener("click", (event) => { back = event.target.closest?.("[data-back]")?.dataset.back ?? back; }, true);
  let opening = false;
  document.addEventListener("keydown", (event) => { // from an empty line back to what was written last
    if (event.key !== "ArrowUp" || event.altKey || !event.target.matches?.(".write-line") || event.target.value) return;
    const last = [...event.target.closest(".items").querySelectorAll(".row.item")].at(-1)?.querySelector(".pick-row");
    if (!last) return;
    event.preventDefault();
    opening = true;
    last.click();
  });
  const refocus = (source) => {
    show();
    const folded = back && document.querySelector(`a#${back}`); // what was changed before may be answered first
    if (folded) { folded.focus(); back = null; return; }
    // Who has just written a title, or opens the question that was written last, goes on in it:
    // with its choices, if it has some. Who has written a question goes on with the next.
    const added = opening || /^add-(section|page)$/.test(source?.closest?.("form")?.elements.do?.value ?? "");
    opening = false;
    if (added) ["#f-choices", "#f-label", "#f-title"].map((id) => document.querySelector(`.row.sel .q ${id}`)).find(Boolean)?.focus();
    else if (goTo) document.querySelector("#" + CSS.escape(goTo) + " .pick-row")?.focus();
    else if (byKey && document.activeElement === document.body)
      document.querySelector(".row.sel .q :is(input:not([type=hidden], .mark-box), textarea)")?.focus();
    goTo = null;
  };
  // What a link or an undo leads to is brought into sight.
  let wanted;
  const show = () => {
    const jump = document.getElementById("jump")?.dataset.jump, row = document.getElementById(wanted ?? (jump ? "row-" + jump : ""));
    wanted = null;
    if (jump) document.getElementById("jump").dataset.jump = "";
    if (!row) return;
    const { top, bottom } = row.getBoundingClientRect();
    if (top < 60 || bottom > innerHeight - 60) row.scrollIntoView({ block: bottom - top > innerHeight - 160 ? "start" : "center" });
  };
  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("a[hx-get][href*='#row-']");
    if (link && !event.target.closest(".pick-row, #close")) wanted = link.hash.slice(1);
  }, true);
  let jumped = -1;
  const nextRemark = () => {
    const all = [...document.querySelectorAll(".to-remark")];
    if (all.length) all[jumped = (jumped + 1) % all.length].click();
  };
  const commands = {
    "?": () => showKeys(),
    "/": () => press("find-in-form"),
    j: () => step(1),
    k: () => step(-1),
    n: () => (document.querySelector(".row.sel")?.closest(".items") ?? document).querySelector(".write-line")?.focus(),
    x: mark,
    t: () => document.getElementById("many-effect")?.focus(),
    d: () => press("duplicate"),
    f: () => press(document.getElementById("narrow") ? "narrow" : "show-all"),
    r: nextRemark,
  };
  // The list of keys and the help of a screen are pages of their own, shown here in a dialog.
  function showKeys(address = "/keys") {
    const open = document.querySelector("dialog.keys");
    if (open) { open.remove(); return; }
    fetch(address).then((answer) => answer.text()).then((text) => {
      const page = new DOMParser().parseFromString(text, "text/html"), box = document.createElement("dialog");
      box.className = "keys";
      box.setAttribute("aria-labelledby", "keys-title");
      const title = page.querySelector("h1");
      title.id = "keys-title";
      const close = document.createElement("button");
      close.className = "second";
      close.textContent = "Close";
      close.addEventListener("click", () => box.remove());
      box.append(title, page.querySelector("dl, .help-body"), close);
      document.body.append(box);
      box.showModal();
      box.addEventListener("close", () => box.remove());
    });
  }
  document.addEventListener("click", (event) => {
    const help = event.target.closest?.(".to-help");
    if (!help && !event.target.closest?.(".to-keys")) return;
    event.preventDefault();
    showKeys(help?.getAttribute("href") ?? "/keys");
  });
  // A menu that was opened closes when one goes elsewhere.
  const menu = (but) => [...document.querySelectorAll("details.menu[open]")].find((one) => !one.contains(but));
  document.addEventListener("click", (event) => { const open = menu(event.target); if (open) open.open = false; });
  document.addEventListener("keydown", (event) => {
    const inManuscript = document.getElementById("doc");
    if (event.key === "Escape" && menu()) {
      const open = menu();
      open.open = false;
      open.querySelector("summary").focus();
      return;
    }
    if (event.key === "Escape") {
      if (inManuscript && !document.querySelector("dialog.keys")) leave(event.target);
      else if (!inManuscript) press("done");
      return;
    }
    if (event.key === " " && event.target.matches?.(".mark-box")) return;
    if (event.key === "?" && !inManuscript && !typing(event.target)) { document.querySelector(".to-help")?.click(); return; }
    if (!inManuscript || (typing(event.target) && !event.altKey && !event.target.matches(".mark-box"))) return;
    if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
      event.preventDefault();
      if (!marks.move(event.key === "ArrowUp")) press(event.key === "ArrowUp" ? "move-up" : "move-down");
    } else if ((event.ctrlKey || event.metaKey) && (event.key === "z" || event.key === "y")) {
      event.preventDefault();
      press(event.key === "y" || event.shiftKey ? "redo" : "undo");
    } else if (!event.ctrlKey && !event.metaKey && !event.altKey && !event.target.closest("button, summary, dialog")) {
      const command = commands[event.key];
      if (command) { event.preventDefault(); command(); }
    }
  });

  // Only the reasons' own box is scrolled: a page that moves under a press makes it miss.
  const whysTo = (why) => {
    const box = document.getElementById("whys"), [inside, around] = [why.getBoundingClientRect(), box.getBoundingClientRect()];
    if (inside.top < around.top) box.scrollTop += inside.top - around.top;
    else if (inside.bottom > around.bottom) box.scrollTop += Math.min(inside.bottom - around.bottom, inside.top - around.top);
  };
  // Pointing at a question of the rehearsal shows its reasons, and the other way round.
  const point = (event) => {
    const unit = event.target.closest?.(".paper .unit[data-key]");
    if (unit) {
      document.querySelectorAll(".why.pointed").forEach((why) => why.classList.remove("pointed"));
      const why = document.querySelector(`.why[data-why="${unit.dataset.key}"]`);
      why?.classList.add("pointed");
      if (event.type === "focusin" && why) whysTo(why);
    }
    const why = event.target.closest?.(".why");
    document.querySelectorAll(".unit.pointed").forEach((node) => node.classList.remove("pointed"));
    if (why) document.querySelectorAll(`.unit[data-key="${why.dataset.why}"]`).forEach((node) => node.classList.add("pointed"));
  };
  document.addEventListener("pointerover", point);
  document.addEventListener("focusin", point);

  // Whether keys are shown is remembered by this browser.
  const showsKeys = (on) => {
    document.documentElement.classList.toggle("with-keys", on);
    const box = document.getElementById("show-keys");
    if (box) box.checked = on;
  };
  const remembered = () => { try { return localStorage.getItem("lazo-keys") === "1"; } catch { return false; } };
  document.addEventListener("DOMContentLoaded", () => showsKeys(remembered()));
  document.addEventListener("change", (event) => {
    if (event.target.id !== "show-keys") return;
    try { localStorage.setItem("lazo-keys", event.target.checked ? "1" : ""); } catch { /* not remembered */ }
    showsKeys(event.target.checked);
  });

  // What a workspace says of itself stays folded in this browser once it was folded.
  document.addEventListener("DOMContentLoaded", () => {
    const about = document.getElementById("about");
    if (!about) return;
    try { about.open = localStorage.getItem("lazo-about") !== about.textContent.length.toString(); } catch { /* not remembered */ }
    about.addEventListener("toggle", () => { try { localStorage.setItem("lazo-about", about.open ? "" : about.textContent.length.toString()); } catch { /* not remembered */ } });
  });

  // Time zones are those that the browser knows; a new form has the one that it is in.
  document.addEventListener("DOMContentLoaded", () => {
    for (const field of document.querySelectorAll("[data-own-zone]")) field.value = Intl.DateTimeFormat().resolvedOptions().timeZone ?? "";
  });
  document.addEventListener("focusin", (event) => {
    const list = event.target.matches?.("[data-zones]") && document.getElementById("zones");
    if (!list || list.children.length) return;
    list.append(...Intl.supportedValuesOf("timeZone").map((zone) => Object.assign(document.createElement("option"), { value: zone })));
  });

  // A zone is said where it is not the reader's own; names differ, clocks don't.
  const clock = (zone) => ["2026-01-15T12:00Z", "2026-07-15T12:00Z"].map((at) => new Date(at).toLocaleString("en", { timeZone: zone })).join();
  const zones = () => {
    for (const said of document.querySelectorAll("[data-zone]")) try { said.hidden = clock(said.dataset.zone) === clock(); } catch { /* said */ }
  };
  document.addEventListener("DOMContentLoaded", zones);
  document.addEventListener("htmx:after:swap", zones);

  // What stands in an element is copied, where browsers let pages do so.
  const copies = () => { for (const button of document.querySelectorAll("[data-copies]")) button.hidden = !navigator.clipboard; };
  document.addEventListener("DOMContentLoaded", copies);
  document.addEventListener("htmx:after:swap", copies);
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-copies]");
    if (button) navigator.clipboard.writeText(document.getElementById(button.dataset.copies).textContent).then(() => { button.textContent = "Copied"; });
  });

  const saved = (text) => { const node = document.querySelector(".saved"); if (node) node.textContent = text; };

  // What is looked at stays so when the page is loaded again. The library's own history is
  // switched off, since Back would bring pages that are no longer so.
  document.addEventListener("htmx:after:swap", (event) => {
    const to = event.detail?.ctx?.hx?.replaceurl;
    if (to) history.replaceState(history.state, "", to);
  });

  // What could not be saved is kept in this browser tab, said, and offered again: when
  // the server is back, or after one has signed in once more.
  const place = () => "lazo-unsaved:" + document.getElementById("desk")?.dataset.form;
  const unsaved = {
    all() { try { return JSON.parse(sessionStorage.getItem(place())) ?? []; } catch { return []; } },
    keep(list) { try { if (list.length) sessionStorage.setItem(place(), JSON.stringify(list)); else sessionStorage.removeItem(place()); } catch { /* not kept */ } },
    words: ["value", "source", "label", "message", "subject", "name", "text"],
    text(fields) { return fields.find(([name, value]) => unsaved.words.includes(name) && value.trim())?.[1] ?? ""; },
    add(body, why) {
      const fields = [...(body ?? [])].filter(([name, value]) => name !== "version" && typeof value === "string");
      const list = unsaved.all().filter((u) => JSON.stringify(u.filter(([n]) => !unsaved.words.includes(n))) !== JSON.stringify(fields.filter(([n]) => !unsaved.words.includes(n))));
      unsaved.keep([...list, fields]);
      unsaved.show(why);
    },
    // A condition that was written and refused stays in its field; once that is left for
    // another question it is kept here, until it is right or let go.
    written(body) {
      const fields = [...(body ?? [])].filter(([name, value]) => name !== "version" && typeof value === "string");
      const of = Object.fromEntries(fields);
      return of.source !== undefined && of.property !== undefined ? { fields, place: of.key + " " + of.property } : null;
    },
    refused(body) {
      const it = unsaved.written(body);
      if (it) unsaved.keep([...unsaved.all().filter((u) => unsaved.written(u)?.place !== it.place), it.fields]);
    },
    taken(body) {
      const of = Object.fromEntries([...(body ?? [])].filter(([, value]) => typeof value === "string"));
      const place = (of.key ?? "") + " " + (of.property ?? "");
      const left = unsaved.all().filter((u) => unsaved.written(u)?.place !== place);
      if (left.length !== unsaved.all().length) { unsaved.keep(left); unsaved.show(); }
      const away = left.some((u) => unsaved.written(u) && ![...document.querySelectorAll("textarea[name=source]")].some((area) => area.value === unsaved.text(u)));
      if (away && !document.getElementById("unsaved")) unsaved.show("Not saved: a condition is not right yet.");
    },
    show(why) {
      document.getElementById("unsaved")?.remove();
      const list = unsaved.all();
      if (!list.length || !document.getElementById("doc")) return;
      const box = document.createElement("div");
      box.id = "unsaved";
      box.className = "flash unsaved";
      box.setAttribute("role", "alert");
      const head = document.createElement("p");
      head.textContent = (why ?? "This could not be saved before.") + " ";
      if (why?.includes("signed out")) {
        const link = document.createElement("a");
        Object.assign(link, { href: "/sign-in?to=" + encodeURIComponent(location.pathname + location.search), textContent: "Sign in again" });
        head.append(link);
      }
      box.append(head);
      list.forEach((fields, at) => {
        const line = document.createElement("p"), text = unsaved.text(fields);
        line.textContent = text ? "“" + text + "” " : "A change without a text. ";
        const button = (words, act) => {
          const b = document.createElement("button");
          Object.assign(b, { type: "button", className: "quiet", textContent: words });
          b.addEventListener("click", () => { unsaved.keep(unsaved.all().filter((_, i) => i !== at)); act(); });
          line.append(b);
        };
        button("Save it now", () => { unsaved.show(); post(document.getElementById("desk").dataset.form, Object.fromEntries(fields)); });
        button("Let it go", () => unsaved.show());
        box.append(line);
      });
      document.getElementById("doc").prepend(box);
      saved("Not saved");
    },
  };
  const isEdit = (ctx) => Boolean(ctx?.request?.action?.endsWith?.("/edit"));
  document.addEventListener("htmx:before:response", (event) => {
    const { ctx } = event.detail ?? {};
    const status = ctx?.response?.status ?? 200;
    // An answer of anything in between, or of an error, is not put into the page.
    if (status < 500 && status !== 401 && status !== 404 && status !== 413) return;
    event.preventDefault();
    if (!isEdit(ctx)) { saved(status === 401 ? "You are signed out" : "Not loaded: the server can’t answer right now"); return; }
    sent = null;
    unsaved.add(ctx.request.body, status === 401 ? "Not saved: you are signed out." : status === 404 ? "Not saved: this form is no longer there." : "Not saved: the server can’t answer right now.");
  });
  document.addEventListener("DOMContentLoaded", () => unsaved.show());

  // Morphing keeps what is in the fields; the manuscript's fields must show what
  // was saved, after an undo too. Only a field being typed in is left alone, and what was
  // typed since the change was sent that is answered now.
  let sent, typed = 0;
  const typedAt = new WeakMap();
  const touched = (event) => typedAt.set(event.target, ++typed);
  document.addEventListener("input", touched, true);
  document.addEventListener("keydown", (event) => { if (event.target.matches?.("input, select") && !/^(Tab|Shift|Enter|Escape)$/.test(event.key)) touched(event); }, true); // half a date is no input yet
  document.addEventListener("focusin", (event) => { if (event.target.matches?.("input.subject")) touched(event); });
  const reset = (fields, asked) => {
    for (const field of fields) {
      if ((typedAt.get(field) ?? 0) > asked) continue;
      if (field.type === "checkbox" || field.type === "radio") field.checked = field.defaultChecked;
      else if (field.tagName === "SELECT") {
        for (const option of field.options) if (option.selected !== option.defaultSelected) option.selected = option.defaultSelected;
        if (!field.multiple && field.selectedIndex < 0) field.selectedIndex = 0;
      } else if ("defaultValue" in field && field.type !== "hidden" && field.value !== field.defaultValue) field.value = field.defaultValue;
    }
  };
  const settle = (failed, asked) => {
    if (failed) sent = null; // what was typed stays, to be mended
    const active = document.activeElement;
    const busy = /^(INPUT|TEXTAREA)$/.test(active?.tagName) ? active.form : null;
    for (const form of document.querySelectorAll(".ms form")) if (failed ? !form.contains(failed) : form !== busy || form === sent) reset(form.elements, asked);
    sent = null;
    marks.count();
  };
  const changesNothing = (source) => Boolean(source?.matches?.("details") || source?.closest?.(".here, .loose, .then-list, .checked, .proving"));
  document.addEventListener("htmx:before:request", (event) => {
    const source = event.detail?.ctx?.sourceElement;
    if (source?.closest(".loose")) event.detail.ctx.typed = typed;
    if (changesNothing(source) || event.detail?.ctx?.request?.action?.endsWith?.("/check")) return;
    saved("Saving …");
    event.detail.ctx.typed = typed;
    sent = source?.closest("form");
    const line = sent?.querySelector(".write-line");
    if (line) line.value = ""; // the next question can be written meanwhile
  });
  document.addEventListener("htmx:error", (event) => {
    const ctx = event.detail?.ctx;
    sent = null;
    if (isEdit(ctx)) unsaved.add(ctx.request.body, "Not saved: the connection is broken.");
    else if (ctx) saved("The connection is broken");
  });
  document.addEventListener("htmx:after:swap", (event) => {
    const { sourceElement: source, target } = event.detail?.ctx ?? {};
    if (target?.matches?.(".loose")) reset(target.querySelectorAll("input, select"), event.detail.ctx.typed ?? typed);
    if (changesNothing(source) || target?.matches?.(".checked")) return;
    const refused = (event.detail?.ctx?.response?.status ?? 200) >= 400;
    settle(refused ? source : null, event.detail?.ctx?.typed ?? typed);
    const body = event.detail?.ctx?.request?.body;
    const line = refused && source?.querySelector?.(".write-line");
    if (line && !line.value) line.value = body?.get?.("label") ?? "";
    if (refused) { saved("Not saved"); unsaved.refused(body); } else unsaved.taken(body);
    showsKeys(document.documentElement.classList.contains("with-keys"));
    refocus(refused ? null : source);
    refusal?.remove();
    refusal = null;
    if (refused) inSight(source);
    fade();
  });
  // Why something was refused stands at what was touched, and is brought into sight.
  let refusal;
  const inSight = (source) => {
    const form = source?.closest?.("form") ?? source, notice = document.querySelector("#notices .flash[role=alert]");
    if (notice && form?.isConnected && form.closest("#desk")) {
      notice.id = "refusal"; // so that nothing that comes is taken for it
      notice.classList.add("problem", "col-span-full", "basis-full");
      if (form.matches(".marked-bar")) form.append(notice); else form.after(notice);
      refusal = notice;
    }
    const why = refusal ?? document.querySelector(".row.sel .problem, #notices .flash[role=alert]");
    if (!why) return;
    const { top, bottom } = why.getBoundingClientRect();
    if (top < 0 || bottom > innerHeight - 40) why.scrollIntoView({ block: "center" });
  };
  // What was said of the last change makes way after a while, unless it is pointed at.
  const fade = () => {
    const said = document.querySelector(".flash.said");
    if (said) setTimeout(() => { if (said.matches(":hover")) fade(); else said.remove(); }, 9000);
  };
})();
