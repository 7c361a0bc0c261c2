// Adds up every suite's own result file. A suite that left none counts as failed.
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const [folder, failedBefore] = process.argv.slice(2);
let passed = 0;
let failed = 0;

function read(name) {
  const path = join(folder, name);
  if (existsSync(path)) return readFileSync(path, 'utf8');
  console.log(`${name} is missing: its suite did not finish`);
  failed++;
  return null;
}

const vitest = read('vitest.json');
if (vitest) {
  const result = JSON.parse(vitest);
  passed += result.numPassedTests;
  failed += result.numFailedTests + (result.numPassedTests + result.numFailedTests === 0 ? 1 : 0);
}
for (const suite of ['Core', 'System']) {
  const xml = read(`xunit-${suite}.xml`);
  for (const assembly of xml?.match(/<assembly [^>]*>/g) ?? []) {
    const count = (name) => Number(assembly.match(new RegExp(` ${name}="(\\d+)"`))?.[1] ?? 0);
    passed += count('passed');
    failed += count('failed') + count('errors');
  }
}
const playwright = read('playwright.json');
if (playwright) {
  const { stats } = JSON.parse(playwright);
  passed += stats.expected;
  failed += stats.unexpected + stats.flaky;
}
if (existsSync(join(folder, 'formats.json'))) failed++;
if (failed === 0 && failedBefore !== '0') failed++;
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
