/** Ends with one plain line that says how it went. */
export default class {
  counts = { passed: 0, failed: 0, skipped: 0 }
  onTestEnd(test, result) {
    if (result.status === 'skipped') this.counts.skipped++
    else if (result.status === 'passed') this.counts.passed++
    else if (result.retry === test.retries) this.counts.failed++
  }
  onEnd() {
    console.log(`\n${this.counts.passed} passed, ${this.counts.failed} failed, ${this.counts.skipped} skipped`)
  }
}
