/** The public names of each folder of the core: a new one is added here on purpose, or not at all. */
import * as bytes from '../../src/core/bytes';
import * as codecs from '../../src/core/codecs';
import * as faults from '../../src/core/faults';
import * as game from '../../src/core/game';
import * as keysearch from '../../src/core/keysearch';
import * as names from '../../src/core/names';
import * as recipe from '../../src/core/recipe';

test.each([
  [
    'bytes',
    bytes,
    'ByteWriter Cursor RangeSet bufferSource checkRange collect copyOf joinedSource lazySource memoryScratch memorySink readChunks sliceSource',
  ],
  [
    'codecs',
    codecs,
    'AesBlocks KEY_KINDS bringHasher codecNames createHasher findCodec findHash hashFacts hashOf hasherKey hasherNames isExpandedKey keyBytes keyCandidates keyLength keysInText maskKey prepareCodecs unknownPacking',
  ],
  [
    'faults',
    faults,
    'CancelledError FaultError FormatError LimitError faultOf faultSchema hexBytes isFaultError sayFault sayIssue throwIfStopped visible',
  ],
  [
    'game',
    game,
    'COUNTINGS DEFAULT_ORDER HOWS KINDS KIND_NAMES MOD_MANIFEST MOSTLY_THE_GAMES SafePaths brokenRules declaredKind gameProfile guessFromHead hasSignature inLoadOrder isPcxHeader isProgram isSgiHeader isSvg isVersionFile kindOf loadOrderRule looseKind matchFile matchNumbers mimeOf modFile pairCompanions profileFile sayRule testRule versionInProgram versionInText versionOfFile',
  ],
  ['keysearch', keysearch, 'searchKeys solveXor solveXorAnywhere xorWith'],
  ['names', names, 'HashTargets harvestPaths keyOf namesInList parseNameList parsePattern quickHash searchPattern'],
  [
    'recipe',
    recipe,
    'DEFAULT_LIMITS EDIT_WORDS LAYOUTS NAMELESS NO_EDITS archiveFiles buildText checkFormulas companionPaths compileRecipe contentTags editsHold entryFieldPlace entrySize entryValue explainEntry explainRegion explainedBytes fieldPlace followLink isProven isUnchanged keyProbe locksOf matches openArchive openTables parseExpression pathHashing planNew planRebuild prove quoteCalls readEntry recogniseFile regionBytes rowFieldPlaces rowFields rowValues rowsAreFixed smallReader storedSource textCodec uniquePaths valueIn verifyWritten vocabulary volumeBytes volumeNumber writePlan writeVolume',
  ],
])('%s shows what it shows', (_, entrance, names) => {
  expect(Object.keys(entrance).sort().join(' ')).toBe(names);
});
