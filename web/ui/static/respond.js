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
// What HTML and htmx cannot do for a form in public: keep an appointment with the
// clock, go on when the connection comes back, and remember on the device.
(() => {
  document.documentElement.classList.add("scripted");
  document.addEventListener("htmx:before:request", () => document.documentElement.classList.add("changed"), { once: true });
  const fill = () => document.getElementById("fill");

  let timer;
  const appoint = () => {
    clearTimeout(timer);
    const form = fill(), wait = Number(document.getElementById("clock")?.dataset.wait);
    if (form && wait > 0) timer = setTimeout(() => htmx.trigger(form, "clock"), wait);
  };

  // A live change that fails is said, and asked for again with growing waits until
  // it comes through; whatever is changed meanwhile asks by itself.
  const patience = 15000;
  let again, wait = 0, limit;
  const trouble = (why) => {
    const note = document.getElementById("trouble");
    if (!note) return;
    note.hidden = !why;
    note.textContent = why ? note.dataset[why] : "";
  };
  const retry = () => {
    clearTimeout(again);
    wait = Math.min(wait ? wait * 2 : 1500, 30000);
    again = setTimeout(ask, wait);
  };
  const ask = () => { if (rows.doing) rows.go(); else if (fill()) htmx.trigger(fill(), "clock"); };
  const settled = () => { clearTimeout(again); wait = 0; trouble(null); };
  const isLive = (ctx) => ctx?.sourceElement === fill() || ctx?.sourceElement?.form === fill() && fill() !== null;
  document.addEventListener("htmx:before:request", (event) => {
    if (!isLive(event.detail?.ctx)) return;
    clearTimeout(limit);
    const { ctx } = event.detail;
    limit = setTimeout(() => { ctx.late = true; ctx.request.abort?.(); trouble("refused"); retry(); }, patience);
  });
  // Only what says that it is the application's answer is put into the page; a page
  // of something in between is not.
  document.addEventListener("htmx:before:response", (event) => {
    const { ctx } = event.detail ?? {};
    if (!isLive(ctx)) return;
    clearTimeout(limit);
    const { status, headers } = ctx.response;
    if (headers.get("Lazo-Closed")) {
      event.preventDefault();
      goOn("update");
    } else if (status !== 200 || !headers.get("Lazo-Live")) {
      event.preventDefault();
      if (status === 409) trouble("stale");
      else if (status === 413 || status === 400) trouble("refused");
      else { trouble("refused"); retry(); }
    } else settled();
  });
  document.addEventListener("htmx:error", (event) => {
    if (!isLive(event.detail?.ctx) || event.detail.ctx.late) return;
    clearTimeout(limit);
    trouble("offline");
    retry();
  });
  addEventListener("online", () => { if (!document.getElementById("trouble")?.hidden) { wait = 0; ask(); } });
  document.addEventListener("htmx:after:swap", appoint);

  let typed = false; // something that was not sent since

  // goOn posts the whole form as one of its buttons would.
  function goOn(what) {
    const field = document.createElement("input");
    Object.assign(field, { type: "hidden", name: "_do", value: what });
    fill().append(field);
    typed = false; // it goes along
    fill().submit();
  }

  // What is sent waits for the connection, and is tried again like a live change: a page that
  // a browser can't fetch would take the place of this one, with all that was typed.
  const reach = {
    wanted: null, // the button that waits, or true for none
    timer: 0, wait: 0,
    async there() {
      const limit = AbortSignal.timeout(patience);
      try { return (await fetch("/healthz", { cache: "no-store", signal: limit })).ok; } catch { return false; }
    },
    async go() {
      clearTimeout(reach.timer);
      if (await reach.there()) {
        const button = reach.wanted;
        reach.wanted = null;
        reach.wait = 0;
        trouble(null);
        fill().dataset.reached = "yes";
        fill().requestSubmit(button === true || !button?.isConnected ? undefined : button);
        delete fill().dataset.reached;
        return;
      }
      trouble("waiting");
      reach.wait = Math.min(reach.wait ? reach.wait * 2 : 1500, 30000);
      reach.timer = setTimeout(reach.go, reach.wait);
    },
  };
  document.addEventListener("submit", (event) => {
    if (event.target !== fill() || fill().dataset.reached) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    const first = !reach.wanted;
    reach.wanted = event.submitter ?? true;
    if (first) reach.go();
  }, true);
  addEventListener("online", () => { if (reach.wanted) { reach.wait = 0; reach.go(); } });

  // Rows come and go in place. While one does, the rows can't be touched, since their
  // numbers are about to change, and whatever else is asked waits for it.
  const rows = {
    doing: null, // what a button asked for
    waiting: false, // whether a change asked meanwhile
    submitter: null, // or a button of the page
    inert(on) { for (const box of document.querySelectorAll("[id^=rows-]")) box.inert = on; },
    go() {
      const form = fill();
      rows.inert(true);
      htmx.ajax("POST", form.getAttribute("hx-post"), { source: form, swap: "none", values: { _do: rows.doing } });
    },
    done() {
      rows.doing = null;
      rows.inert(false);
      if (rows.submitter) fill().requestSubmit(rows.submitter);
      else if (rows.waiting) ask();
      rows.submitter = null;
      rows.waiting = false;
    },
  };
  const isRows = (ctx) => Boolean(rows.doing && ctx?.request?.body?.get?.("_do") === rows.doing);
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("button[data-rows]");
    if (!button || button.form !== fill() || !fill().getAttribute("hx-post")) return;
    event.preventDefault();
    if (rows.doing) return;
    rows.doing = button.value;
    rows.go();
  });
  document.addEventListener("htmx:config:request", (event) => {
    const ctx = event.detail?.ctx;
    if (!rows.doing || isRows(ctx) || !isLive(ctx)) return;
    event.preventDefault();
    rows.waiting = true;
  });
  document.addEventListener("htmx:finally:request", (event) => {
    if (isRows(event.detail?.ctx) && event.detail.ctx.status === "swapped") rows.done();
  });
  document.addEventListener("submit", (event) => {
    if (!rows.doing || event.target !== fill()) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    rows.submitter = event.submitter;
  }, true);

  // That a filling was begun is counted once; nothing tells whose it is.
  document.addEventListener("input", (event) => {
    const form = event.target.form, far = form?.elements._far;
    if (!event.isTrusted || !form || form !== fill() || !far || far.value || !form.elements._page) return;
    far.value = form.elements._page.value;
    const body = new URLSearchParams({ _token: form.elements._token.value, _page: far.value });
    fetch(form.action + "/begun", { method: "POST", body }).catch(() => { /* it is not counted */ });
  });

  // Inside another page: tell it how high the form is.
  if (parent !== self) addEventListener("DOMContentLoaded", () => {
    new ResizeObserver(() => parent.postMessage({ lazoHeight: document.documentElement.getBoundingClientRect().height }, "*")).observe(document.documentElement);
  });

  // What was answered survives a reload, where the form allows it: kept on this
  // device alone, never of sensitive items, and forgotten once it is sent. It is the
  // server that puts it back, as if it had been typed.
  const memory = {
    // A browser may keep nothing at all; then nothing is remembered.
    read(address) { try { return JSON.parse(localStorage.getItem("lazo:" + address)); } catch { return null; } },
    write(address, kept) { try { if (kept) localStorage.setItem("lazo:" + address, JSON.stringify(kept)); else localStorage.removeItem("lazo:" + address); } catch { /* not kept */ } },
    fields(form) {
      const out = [];
      for (const f of form.elements) {
        if (!f.name || f.name.startsWith("_") || f.name.startsWith("auto.") || f.type === "file" || f.tagName === "BUTTON" || f.matches("[data-sensitive]") || f.closest("[data-sensitive]")) continue;
        if ((f.type === "checkbox" || f.type === "radio") && !f.checked) continue;
        const own = f.closest(".unit")?.querySelector("[data-own]");
        if (own && !own.value) continue; // it comes by itself
        if (f.tagName === "SELECT") for (const o of f.selectedOptions) out.push([f.name, o.value]);
        else out.push([f.name, f.value]);
      }
      return out;
    },
  };
  const remembering = () => document.querySelector("form[data-remember]");
  const keep = () => { const form = remembering(); if (form) memory.write(form.dataset.address, memory.fields(form)); };
  document.addEventListener("input", (event) => { if (event.isTrusted && event.target.form === remembering()) keep(); });
  document.addEventListener("htmx:after:swap", (event) => { if (event.detail?.ctx?.asked > 0) keep(); });
  const restore = (form) => {
    const kept = memory.read(form.dataset.address);
    if (!Array.isArray(kept) || !kept.length) return;
    const body = new URLSearchParams(kept);
    for (const name of ["_token", "_page"]) body.set(name, form.elements[name].value);
    fetch(form.getAttribute("hx-post"), { method: "POST", body }).then(async (answer) => {
      if (!answer.ok || !answer.headers.get("Lazo-Live")) return;
      const text = await answer.text();
      await htmx.swap({ text, sourceElement: form, swap: "none", target: form, request: {}, hx: {} });
      const again = document.getElementById("again"); // somebody else may sit here now
      if (again) again.hidden = false;
      // Answers of other pages travel along.
      const here = new Set([...form.elements].map((f) => f.name)), elsewhere = document.getElementById("elsewhere");
      for (const [name, value] of kept) {
        if (here.has(name)) continue;
        const field = document.createElement("input");
        Object.assign(field, { type: "hidden", name, value });
        elsewhere.append(field);
      }
    }).catch(() => { /* without an answer the form is as it came */ });
  };

  document.addEventListener("click", (event) => {
    if (!event.target.closest?.("#afresh")) return;
    memory.write(fill().dataset.address, null);
    typed = false;
    location.replace(location.pathname + location.search);
  });

  // Whoever comes back to a form that this browser has sent is told so by the server.
  const sent = {
    of(address) { try { return sessionStorage.getItem("lazo-sent:" + address); } catch { return null; } },
    note(address, filling) { try { sessionStorage.setItem("lazo-sent:" + address, filling); } catch { /* not kept */ } },
    forget(address) { try { sessionStorage.removeItem("lazo-sent:" + address); } catch { /* not kept */ } },
  };
  addEventListener("pageshow", (event) => {
    const form = fill();
    if (!form) return;
    const came = performance.getEntriesByType("navigation")[0]?.type, back = event.persisted || came === "back_forward";
    const field = form.elements._sent, before = sent.of(form.dataset.address);
    if (field && before && back) field.value = before;
    // On a shared computer the next one who goes back does not see what is sensitive.
    if (before && back) for (const f of form.elements) if (f.matches("[data-sensitive]") || f.closest("[data-sensitive]")) f.value = "";
    else if (!back && came === "navigate" && !document.getElementById("notice") && !field?.value && form.elements._page && document.referrer.indexOf("/received/") >= 0) sent.forget(form.dataset.address);
    delete form.dataset.sent;
  });

  addEventListener("DOMContentLoaded", () => {
    const { received, filling } = document.body.dataset;
    if (received) { memory.write(received, null); if (filling) sent.note(received, filling); }
    appoint();
    const form = remembering();
    if (form && !document.getElementById("summary")?.querySelector("li") && form.elements._page && !document.getElementById("elsewhere")?.children.length) restore(form);
    (document.querySelector("#summary:not([hidden])") ?? document.getElementById("notice") ?? document.querySelector("[data-further] h2[tabindex], [data-further] h1"))?.focus();
    document.querySelector("[data-print]")?.addEventListener("click", () => print());
  });
  // A line of the summary leads to its question, with label and message in sight.
  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("#summary a");
    const unit = link && document.getElementById(link.hash.slice(1));
    if (!unit) return;
    event.preventDefault();
    unit.querySelector("input:not([type=hidden]), select, textarea, button")?.focus({ preventScroll: true });
    unit.scrollIntoView({ block: "start" });
  });
  // Times of the form's zone, in the visitor's own as well if that differs.
  document.addEventListener("DOMContentLoaded", () => {
    for (const time of document.querySelectorAll("time[data-zone]")) {
      const at = new Date(time.dateTime), say = (zone) => at.toLocaleString(document.documentElement.lang, { timeZone: zone, dateStyle: "medium", timeStyle: "short" });
      if (say(time.dataset.zone) !== say(undefined)) time.parentElement.append(" " + time.dataset.yours.replace("…", say(undefined)));
    }
  });
  // A second click while the first is under way would only send the same again.
  document.addEventListener("submit", (event) => {
    if (event.target.id !== "fill") return;
    if (event.target.dataset.sent) event.preventDefault();
    event.target.dataset.sent = "yes";
    typed = false;
    const button = event.submitter?.closest?.("#steps, .steps") ? event.submitter : null, words = button?.textContent;
    if (button && event.target.dataset.sending) setTimeout(() => { button.textContent = event.target.dataset.sending; button.setAttribute("aria-busy", "true"); });
    setTimeout(() => {
      delete event.target.dataset.sent;
      if (button) { button.textContent = words; button.removeAttribute("aria-busy"); }
    }, 4000);
  });
  // Whoever leaves with what was typed and not sent is asked, unless this device keeps it.
  document.addEventListener("input", (event) => { typed ||= event.isTrusted && event.target.form === fill(); });
  addEventListener("beforeunload", (event) => { if (typed && fill() && !remembering()) event.preventDefault(); });
  // A file is sent as soon as it is chosen, by itself, so that the live changes
  // stay small and it is there when the page comes back with a problem.
  document.addEventListener("change", (event) => {
    const input = event.target;
    if (!input.matches?.("[data-file]") || input.form?.id !== "fill" || !input.files.length) return;
    htmx.ajax("POST", input.form.getAttribute("hx-post"), { source: input, swap: "none" });
  });
})();
