import { chromium } from '@playwright/test';
const args=['--no-sandbox','--no-proxy-server','--disable-quic','--no-first-run','--disable-background-networking','--disable-component-update','--disable-sync','--use-gl=angle','--use-angle=swiftshader','--enable-unsafe-swiftshader'];
const browser=await chromium.launch({executablePath:'/usr/bin/chromium',args});
const page=await browser.newPage({viewport:{width:1280,height:800}});
page.on('console',m=>m.type()==='error'&&console.log('console:',m.text())); page.on('pageerror',e=>console.log('pageerror',e.message));
await page.goto('http://127.0.0.1:8420/'); await page.fill('[name=email]','ines@orchard-press.example'); await page.fill('[name=password]','cider-press-1902'); await page.click('button'); await page.waitForSelector('text=Projects');
const script=process.argv[2]; const run=(await import(script)).default; await run(page); await browser.close();
