import { mkdirSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { homedir } from 'node:os';
import { join, resolve } from 'node:path';
import pino, { type Logger } from 'pino';
import { Artworks } from '../artwork/artworks';
import { Fonts } from '../artwork/fonts';
import { Arrivals } from '../automation/arrivals';
import { ArrivalStore } from '../automation/arrival-store';
import { FolderWatching } from '../automation/folder-watching';
import { Intake } from '../automation/intake';
import { NetworkJobs } from '../automation/printers/network-jobs';
import { NetworkPrinters } from '../automation/printers/network-printers';
import { PrinterAnswers } from '../automation/printers/printer-answers';
import { PrinterDoors } from '../automation/printers/printer-doors';
import { PrinterLook } from '../automation/printers/printer-look';
import { RecipeApplying } from '../automation/recipe-applying';
import { RecipeFiles } from '../automation/recipe-files';
import { Recipes } from '../automation/recipes';
import { WatchedFolders } from '../automation/watched-folders';
import { Baselines } from '../conditions/baselines';
import { Calibration } from '../calibration/calibration';
import { Reminders } from '../calibration/reminders';
import { VariantStrips } from '../calibration/variant-strips';
import { Watch } from '../calibration/watch';
import { CardFiles } from '../calibration/card-files';
import { ChartMaking } from '../calibration/chart-making';
import { ChartReading } from '../calibration/chart-reading';
import { Charts } from '../calibration/charts';
import { ColourInks } from '../calibration/colour-inks';
import { mendRows, unneeded } from './check';
import { FloorView } from './floor';
import { Lists } from './lists';
import { ColourFiles } from '../conditions/colour-files';
import { ColourMaking } from '../conditions/colour-making';
import { ConditionEditing } from '../conditions/condition-editing';
import { Conditions } from '../conditions/conditions';
import { Modes } from '../conditions/modes';
import { NamedColours } from '../conditions/named-colours';
import { SourceProfiles } from '../conditions/source-profiles';
import { CutPaths } from '../cutting/cut-paths';
import { Cuts } from '../cutting/cut-store';
import { Asking } from '../cutting/asking';
import { Cutting } from '../cutting/cutting';
import { CutterKeys } from '../cutting/cutter-keys';
import { PlainFilm } from '../cutting/plain-film';
import { Rolls } from '../cutting/rolls';
import { DocketColours } from '../dockets/docket-colours';
import { DocketChecking } from '../dockets/docket-checking';
import { DocketEditing } from '../dockets/docket-editing';
import { DocketRecords } from '../dockets/docket-records';
import { DocketShelf } from '../dockets/docket-shelf';
import { Dockets } from '../dockets/dockets';
import { PreparedDockets } from '../dockets/prepared-dockets';
import { LayerPictures } from '../dockets/layer-pictures';
import { DocketPictures } from '../dockets/pictures';
import { MachineShelf } from '../machines/machine-shelf';
import { Machines } from '../machines/machines';
import { MediaCards } from '../media/cards';
import { Library } from '../media/library';
import { isFileUsed, openDatabase, type Db } from '../platform/db/open';
import { lockFolder } from '../platform/db/lock';
import { Events } from '../platform/events';
import { FileStore } from '../platform/files';
import { sentence } from '../platform/problem';
import { Settings } from '../platform/settings';
import { DRAWING_PROCESS, INTAKE_PROCESS, makePool, THREADS } from '../platform/tasks/pool';
import { ProcessPool } from '../platform/tasks/process-pool';
import { TaskRunner } from '../platform/tasks/runner';
import { FieldPictureSets } from '../records/pictures';
import { Overlays } from '../records/overlays';
import { Tables } from '../records/tables';
import { Loading } from '../printing/loading';
import { Prints } from '../printing/print-store';
import { PartPrints } from '../printing/part-prints';
import { Printing } from '../printing/printing';
import { Releasing } from '../printing/releasing';
import { Inspecting } from '../production/inspecting';
import { JigIntake } from '../production/jig-intake';
import { Jigs } from '../machines/jigs';
import { LaneChecks } from '../production/lane-checks';
import { Lanes } from '../production/lanes';
import { LayingOut } from '../production/laying-out';
import { Freezing } from '../production/freezing';
import { PanelMaps } from '../production/panel-maps';
import { Placements } from '../production/placements';
import { PlateKeeping } from '../production/plate-keeping';
import { PlateFiles } from '../production/plate-files';
import { Ripping } from '../production/ripping';
import { DocketParts } from '../production/docket-parts';
import { RunEditing } from '../production/run-editing';
import { RunCopies } from '../production/run-copies';
import { Runs } from '../production/run-store';

/** A file that nothing needs and that is younger may be just about to be needed. */
const SWEPT_AFTER_MS = 3_600_000;

/** Everything of one shop: its data folder, and who works on it. Each room is handed what it needs, and no more. */
export class Shop {
  readonly folder: string;
  readonly #unlock: () => void;
  readonly log: Logger = pino({ level: process.env.ZING_LOG ?? 'warn' });
  readonly db: Db;
  readonly files: FileStore;
  readonly events = new Events();
  readonly settings: Settings;
  readonly tasks: TaskRunner;
  /** Looks at files that come in, and draws what is there: apart, so that neither waits for the other. */
  readonly intakePool = new ProcessPool(INTAKE_PROCESS, { lanes: THREADS, slow: { afterSeconds: 3, lanes: 2 } });
  readonly drawingPool = new ProcessPool(DRAWING_PROCESS, { lanes: THREADS });
  readonly ripPool = makePool('rip-worker');
  readonly platePool = makePool('plate-worker');
  readonly profilePool = makePool('profile-worker', 1);
  /** The same for what somebody looks at: it does not wait for profiles that are built. */
  readonly colourPool = makePool('profile-worker', 1);
  readonly layoutPool = makePool('layout-worker', 1);
  readonly cutPool = makePool('cut-worker', 1);
  readonly cardPool = makePool('card-worker', 1);
  readonly tablePool = makePool('table-worker', 1);
  readonly machines: Machines;
  readonly machineShelf: MachineShelf;
  readonly media: MediaCards;
  readonly library: Library;
  readonly modes: Modes;
  readonly sources: SourceProfiles;
  readonly conditions: Conditions;
  readonly conditionEditing: ConditionEditing;
  readonly colours: NamedColours;
  readonly colourFiles: ColourFiles;
  readonly colourMaking: ColourMaking;
  readonly fonts: Fonts;
  readonly artworks: Artworks;
  readonly tables: Tables;
  readonly overlays: Overlays;
  readonly dockets: Dockets;
  readonly docketEditing: DocketEditing;
  readonly preparedDockets: PreparedDockets;
  readonly docketRecords: DocketRecords;
  readonly docketChecking: DocketChecking;
  readonly docketColours: DocketColours;
  readonly docketShelf: DocketShelf;
  readonly pictures: DocketPictures;
  readonly layerPictures: LayerPictures;
  readonly placements: Placements;
  readonly plateKeeping: PlateKeeping;
  readonly lanes: Lanes;
  readonly jigs: Jigs;
  readonly jigIntake: JigIntake;
  readonly panelMaps: PanelMaps;
  readonly freezing: Freezing;
  readonly runs: Runs;
  readonly docketParts: DocketParts;
  readonly layingOut: LayingOut;
  readonly runCopies: RunCopies;
  readonly runEditing: RunEditing;
  readonly ripping: Ripping;
  readonly inspecting: Inspecting;
  readonly prints: Prints;
  readonly printing: Printing;
  readonly partPrints: PartPrints;
  readonly releasing: Releasing;
  readonly loading: Loading;
  readonly cuts: Cuts;
  readonly cutPaths: CutPaths;
  readonly cutting: Cutting;
  readonly cutterKeys: CutterKeys;
  readonly asking: Asking;
  readonly rolls: Rolls;
  readonly plainFilm: PlainFilm;
  readonly charts: Charts;
  readonly chartMaking: ChartMaking;
  readonly chartReading: ChartReading;
  readonly calibration: Calibration;
  readonly colourInks: ColourInks;
  readonly variantStrips: VariantStrips;
  readonly watch: Watch;
  readonly reminders: Reminders;
  readonly cardFiles: CardFiles;
  readonly recipes: Recipes;
  readonly recipeApplying: RecipeApplying;
  readonly intake: Intake;
  readonly recipeFiles: RecipeFiles;
  readonly arrivalStore: ArrivalStore;
  readonly arrivals: Arrivals;
  readonly watchedFolders: WatchedFolders;
  readonly folderWatching: FolderWatching;
  readonly networkJobs: NetworkJobs;
  readonly networkPrinters: NetworkPrinters;
  readonly printerDoors: PrinterDoors;
  readonly lists: Lists;
  readonly floor: FloorView;

  constructor(dataFolder: string) {
    const folder = (this.folder = resolve(dataFolder));
    mkdirSync(folder, { recursive: true });
    this.#unlock = lockFolder(folder);
    const { log, events, intakePool, drawingPool, ripPool, platePool, profilePool, colourPool, layoutPool, cutPool } = this;
    const db = (this.db = openDatabase(folder));
    const files = (this.files = new FileStore(folder, (hash) => isFileUsed(db, hash)));
    const settings = (this.settings = new Settings(db, events));
    const tasks = (this.tasks = new TaskRunner(db, events, log));

    const machines = (this.machines = new Machines({ db, events, log }));
    this.machineShelf = new MachineShelf({ db, events, machines });
    const media = (this.media = new MediaCards({ db, events, machines }));
    this.library = new Library({ settings, media });

    const sources = (this.sources = new SourceProfiles({ db, files, events, settings, profilePool }));
    const conditions = (this.conditions = new Conditions({ db, files, events, machines }));
    const colours = (this.colours = new NamedColours({ db, events, conditions }));
    const making = (this.colourMaking = new ColourMaking({ colourPool, conditions }));
    this.colourFiles = new ColourFiles({ files, intakePool, colours });
    const opened = { db, files, events, tasks, profilePool, machines, media, conditions };
    const conditionEditing = (this.conditionEditing = new ConditionEditing(opened));
    const modes = (this.modes = new Modes({ db, events, machines, conditions }));

    const fonts = (this.fonts = new Fonts({ db, files, events, intakePool }));
    const artworks = (this.artworks = new Artworks({ db, files, events, tasks, log, settings, intakePool, fonts }));

    const tables = (this.tables = new Tables({ db, files, intakePool, tablePool: this.tablePool }));
    const pictureSets = new FieldPictureSets({
      db,
      files,
      intakePool,
      artworkPictures: () => artworks.pictures(),
      leftOutOf: (id) => artworks.leftOutInFields(id)
    });
    const overlays = (this.overlays = new Overlays({
      db,
      files,
      log,
      drawingPool,
      tables,
      pictureSets,
      faces: () => fonts.faces()
    }));
    const dockets = (this.dockets = new Dockets({ db, events, settings, machines, conditions, artworks }));
    const docketEditing = (this.docketEditing = new DocketEditing({ db, events, artworks, dockets, tables }));
    const jigs = (this.jigs = new Jigs({ db, events }));
    const preparedDockets = (this.preparedDockets = new PreparedDockets({
      artworks,
      colours,
      conditions,
      events,
      jigs,
      settings,
      tables
    }));
    this.docketRecords = new DocketRecords({ dockets, docketEditing, preparedDockets, overlays, pictureSets, settings, tables });
    this.docketChecking = new DocketChecking({ db, events, log, settings, conditions, dockets, preparedDockets, machines, jigs });
    this.docketShelf = new DocketShelf({ db, events });
    const drawn = { db, files, log, settings, drawingPool, colours, conditions, sources, artworks };
    this.layerPictures = new LayerPictures(drawn);
    this.pictures = new DocketPictures({ ...drawn, dockets, preparedDockets, overlays });
    this.docketColours = new DocketColours({ ...drawn, dockets, preparedDockets, making });

    const placements = (this.placements = new Placements({ events, tasks, log, layoutPool }));
    const lanes = (this.lanes = new Lanes({ db, events, machines, conditions }));
    const freezing = (this.freezing = new Freezing({ colours, conditions, sources, artworks, preparedDockets }));
    const plateFiles = new PlateFiles(folder);
    this.plateKeeping = new PlateKeeping({ db, events, log, settings, plateFiles });
    const kept = { placements, freezing, plateFiles };
    const runs = (this.runs = new Runs({ db, events, tasks, conditions, dockets, preparedDockets, jigs, ...kept }));
    this.jigIntake = new JigIntake({
      db,
      events,
      files,
      intakePool,
      artworks,
      dockets,
      preparedDockets,
      conditions,
      lanes,
      runs
    });
    const parts = (this.docketParts = new DocketParts({ db, conditions, dockets, preparedDockets }));
    const checks = new LaneChecks({ conditions, jigs, lanes, preparedDockets });
    const laid = { checks, db, events, plateFiles, runs };
    const layingOut = (this.layingOut = new LayingOut({ ...laid, docketEditing, dockets, lanes, parts }));
    this.runCopies = new RunCopies({ ...laid, freezing });
    this.runEditing = new RunEditing({ ...laid, conditions, dockets, parts });
    const { runEditing, pictures } = this;
    this.panelMaps = new PanelMaps({ artworks, conditions, dockets, files, intakePool, pictures, runEditing, runs, settings });
    const ripping = (this.ripping = new Ripping({
      db,
      files,
      events,
      tasks,
      log,
      ripPool,
      platePool,
      sources,
      overlays,
      runs,
      settings,
      ...kept
    }));
    this.inspecting = new Inspecting({ platePool, conditions, runs });

    const prints = (this.prints = new Prints({ db, events, settings, machines, runs }));
    const printing = (this.printing = new Printing({ files, events, log, machines, media, runs, prints, settings }));
    this.partPrints = new PartPrints({ db, events, prints, runCopies: this.runCopies, runs });
    const releasing = (this.releasing = new Releasing({ db, events, log, machines, lanes, runs, ripping, prints, printing }));
    this.loading = new Loading({ db, events, log, machines, media, prints, releasing });

    const cuts = (this.cuts = new Cuts({ db, events, machines, media, runs }));
    const paths = (this.cutPaths = new CutPaths({ cutPool, machines, runs, cuts, settings }));
    this.cutting = new Cutting({ files, log, machines, runs, printing, cuts, paths });
    const keys = (this.cutterKeys = new CutterKeys({ db }));
    const asking = (this.asking = new Asking({ db, events, files, machines, runs, cuts, paths }));
    this.plainFilm = new PlainFilm({ db, events, machines, freezing, runs, prints, cuts });
    this.rolls = new Rolls({ db, events, machines, printing, cuts, asking, keys });

    const charts = (this.charts = new Charts({ db, tasks, conditions }));
    const baselines = new Baselines({ db });
    this.watch = new Watch({ db, events, conditions, machines, charts, baselines, colourPool });
    this.reminders = new Reminders({ db, events, settings, conditions });
    const printed = { db, events, tasks, profilePool, media, conditions, runs, printing, charts, baselines };
    const chartMaking = (this.chartMaking = new ChartMaking(printed));
    this.chartReading = new ChartReading({ db, events, machines, prints, charts });
    this.variantStrips = new VariantStrips({ colours, conditions, dockets, preparedDockets, freezing, chartMaking });
    this.colourInks = new ColourInks({ machines, conditions, colours, making, charts, chartMaking });
    this.calibration = new Calibration({ files, tasks, settings, profilePool, media, conditions, sources, charts });
    this.cardFiles = new CardFiles({
      cardPool: this.cardPool,
      db,
      files,
      machines,
      media,
      modes,
      conditions,
      conditionEditing,
      charts
    });
    const recipes = (this.recipes = new Recipes({ db, events }));
    const applying = (this.recipeApplying = new RecipeApplying({
      db,
      artworks,
      conditions,
      jigs,
      dockets,
      docketEditing,
      machines,
      pictures,
      recipes,
      settings
    }));
    const intake = (this.intake = new Intake({ db, events, artworks, conditions, dockets, recipes, applying }));
    this.recipeFiles = new RecipeFiles({ conditions, jigs, machines, recipes });
    const store = (this.arrivalStore = new ArrivalStore({ db, events }));
    const folders = (this.watchedFolders = new WatchedFolders({ db, events, recipes, dataFolder: folder }));
    const { docketChecking, docketRecords, docketShelf } = this;
    const arrivals = (this.arrivals = new Arrivals({
      ...{
        db,
        events,
        log,
        artworks,
        conditions,
        dockets,
        docketEditing,
        docketChecking,
        docketRecords,
        docketShelf,
        files,
        layingOut,
        runEditing,
        runs,
        ripping,
        applying,
        recipes,
        intake,
        store
      },
      wasRead: (id) => void this.folderWatching.settleFile(store.row(id))
    }));
    this.folderWatching = new FolderWatching({
      db,
      events,
      log,
      artworks,
      files,
      store,
      folders,
      came: (id) => arrivals.goOn(id)
    });
    const jobs = (this.networkJobs = new NetworkJobs({ db }));
    const printers = (this.networkPrinters = new NetworkPrinters({ db, events, conditions, recipes }));
    const look = new PrinterLook({ conditions, jobs, machines, recipes });
    const facts: PrinterLook['facts'] = (kept, host, path) => look.facts(kept, host, path);
    const answers = new PrinterAnswers({ events, log, arrivals, jobs, facts });
    this.printerDoors = new PrinterDoors({ events, log, answers, jobs, printers });
    const lists = (this.lists = new Lists({ db, events, artworks, colours, dockets, runs, cuts: this.cuts }));
    this.floor = new FloorView({ events, lanes, lists, runs });
  }

  /** Takes up the work that was left, and begins to watch the machines. */
  start(): void {
    for (const { what } of mendRows(this.db)) this.log.warn(what);
    void this.#sweep();
    this.tasks.start();
    this.machines.watch();
    this.printing.resume();
    this.cutting.resume();
    this.releasing.start();
    this.docketChecking.start();
    this.arrivals.start();
    this.folderWatching.start();
    void this.printerDoors.start();
    this.plateKeeping.start();
  }

  /** Lets go of files that a server left that died between a file and its row. */
  async #sweep(): Promise<void> {
    try {
      for (const { path, what } of await unneeded(this.db, this.folder, SWEPT_AFTER_MS)) {
        this.log.warn(what);
        await rm(path, { force: true });
      }
    } catch (error) {
      if (this.db.open) this.log.error({ error: sentence(error) }, 'the folder could not be swept');
    }
  }

  async close(): Promise<void> {
    this.tasks.close();
    this.machines.stop();
    this.releasing.stop();
    this.docketChecking.stop();
    this.arrivals.stop();
    await this.printerDoors.stop();
    await this.folderWatching.stop();
    this.plateKeeping.stop();
    this.printing.stop();
    this.cutting.stop();
    await Promise.all(
      [
        this.intakePool,
        this.drawingPool,
        this.ripPool,
        this.platePool,
        this.profilePool,
        this.colourPool,
        this.layoutPool,
        this.cutPool,
        this.cardPool,
        this.tablePool
      ].map((pool) => pool.destroy())
    );
    this.db.close();
    this.#unlock();
  }
}

/** Where a shop's data are when nothing else is said: the user's data home. */
export function defaultDataFolder(): string {
  return process.env.ZING_DATA ?? join(process.env.XDG_DATA_HOME ?? join(homedir(), '.local', 'share'), 'zing-mast');
}
