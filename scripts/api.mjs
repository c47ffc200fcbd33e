// Writes the public interface of each entry into docs/api, as a report that reviews can read: npm run api. With --check it writes nothing
// and fails when a report is not what the code says.
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Extractor, ExtractorConfig, ExtractorLogLevel } from '@microsoft/api-extractor';
import { entries } from './entries.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const check = process.argv.includes('--check');
const reports = join(root, 'docs/api');
const temporary = mkdtempSync(join(tmpdir(), 'api-'));
mkdirSync(reports, { recursive: true });

let differ = 0;
for (const { title, folder, types } of entries) {
  if (!types) continue;
  const projectFolder = join(root, 'packages', folder);
  const reportFileName = `${title.replace(/^@/, '').replaceAll('/', '-')}.api.md`;
  const { apiReportChanged, errorCount } = Extractor.invoke(
    ExtractorConfig.prepare({
      configObject: {
        projectFolder,
        mainEntryPointFilePath: join(projectFolder, types),
        compiler: { tsconfigFilePath: join(projectFolder, 'tsconfig.json') },
        apiReport: { enabled: true, reportFileName, reportFolder: reports, reportTempFolder: temporary },
        docModel: { enabled: false },
        dtsRollup: { enabled: false },
        tsdocMetadata: { enabled: false },
        newlineKind: 'lf',
        messages: {
          extractorMessageReporting: { default: { logLevel: ExtractorLogLevel.None } },
          tsdocMessageReporting: { default: { logLevel: ExtractorLogLevel.None } },
          compilerMessageReporting: { default: { logLevel: ExtractorLogLevel.None } },
        },
      },
      configObjectFullPath: undefined,
      packageJsonFullPath: join(projectFolder, 'package.json'),
    }),
    {
      localBuild: !check,
      messageCallback: (message) => {
        if (message.messageId.startsWith('console-')) message.logLevel = ExtractorLogLevel.None;
      },
    },
  );
  if (errorCount) throw new Error(`the interface of ${title} cannot be read`);
  const lines = readFileSync(join(temporary, reportFileName), 'utf8').split('\n').length;
  if (check && apiReportChanged) {
    differ++;
    console.error(
      `✗ ${title}: docs/api/${reportFileName} is not what the code says; run npm run api and look at the change`,
    );
  } else console.log(`${title}: ${lines} lines`);
}
rmSync(temporary, { recursive: true });
process.exit(differ ? 1 : 0);
