/** Says of each file of tests how it went and how long it took, and of each failure what it was. */
export default class FileByFile {
  onTestModuleEnd(module) {
    const tests = [...module.children.allTests()];
    const count = (state) => tests.filter((test) => test.result().state === state).length;
    const seconds = (tests.reduce((sum, test) => sum + (test.diagnostic()?.duration ?? 0), 0) / 1000).toFixed(1);
    const [failed, skipped] = [count('failed'), count('skipped')];
    const words = [`${count('passed')} passed`, failed && `${failed} FAILED`, skipped && `${skipped} skipped`];
    console.log(`  ${module.relativeModuleId}: ${words.filter(Boolean).join(', ')}, ${seconds} s`);
    for (const error of module.errors()) console.log(`    ${error.stack ?? error.message}`);
  }

  onTestCaseResult(test) {
    const { state, errors = [] } = test.result();
    if (state !== 'failed') return;
    console.log(`  FAILED ${test.module.relativeModuleId} › ${test.fullName}`);
    for (const error of errors)
      console.log(indented(error.diff ? `${error.message}\n${error.diff}` : (error.stack ?? error.message)));
  }

  /** What tests print are figures for whoever reads on. */
  onUserConsoleLog({ content }) {
    process.stdout.write(`${indented(content.trimEnd())}\n`);
  }

  onTestRunEnd(_, unhandled) {
    for (const error of unhandled) console.log(`  UNHANDLED ${error.stack ?? error.message}`);
  }
}

function indented(text) {
  return text
    .split('\n')
    .slice(0, 40)
    .map((line) => `    ${line}`)
    .join('\n');
}
