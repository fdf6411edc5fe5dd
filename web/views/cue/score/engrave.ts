import { OpenSheetMusicDisplay, type GraphicalNote } from 'opensheetmusicdisplay';
import { TICKS_PER_QUARTER } from '#core/units/index.ts';
import { writtenPlace } from '#core/formats/index.ts';

/** The package that lays out and draws notation; a module of its own, so that it is loaded with the first score that is looked at. */

/** Its pitches count from an octave lower. */
const OCTAVE = 12;
const WHOLE = 4 * TICKS_PER_QUARTER;

export interface Engraved {
  /** What is drawn for each note, by its id. */
  shapes: ReadonlyMap<string, readonly Element[]>;
}

/** Draws scores into one element. */
export class Engraver {
  private readonly display: OpenSheetMusicDisplay;

  constructor(element: HTMLElement, ink: string) {
    this.display = new OpenSheetMusicDisplay(element, {
      backend: 'svg',
      autoResize: false,
      drawTitle: false,
      drawSubtitle: false,
      drawComposer: false,
      drawLyricist: false,
      drawCredits: false,
      disableCursor: true,
      followCursor: false,
      pageFormat: 'Endless',
      useXMLMeasureNumbers: true,
      drawMeasureNumbersOnlyAtSystemStart: true,
      stretchLastSystemLine: true,
      defaultColorMusic: ink,
      defaultFontFamily: '"Source Serif 4 Variable", serif',
    });
    this.display.EngravingRules.PageTopMargin = 1;
    this.display.EngravingRules.PageBottomMargin = 1;
    this.display.EngravingRules.PageLeftMargin = 2;
    this.display.EngravingRules.PageRightMargin = 2;
  }

  /**
   * @param ids notes by where they are written
   * @param zoom 1 is as large as in print
   */
  async draw(musicXml: string, ids: ReadonlyMap<string, string>, zoom: number): Promise<Engraved> {
    await this.display.load(musicXml);
    this.display.zoom = zoom;
    this.display.render();
    return { shapes: this.shapesOf(ids) };
  }

  private shapesOf(ids: ReadonlyMap<string, string>): Map<string, Element[]> {
    const shapes = new Map<string, Element[]>();
    // Staffs are counted through all parts.
    const partOfStaff = this.display.Sheet.Instruments.flatMap(({ Staves }, part) => Staves.map(() => part));
    this.display.GraphicSheet.MeasureList.forEach((staffs, bar) =>
      staffs.forEach((measure, staff) => {
        for (const entry of measure?.staffEntries ?? [])
          for (const voice of entry.graphicalVoiceEntries)
            for (const note of voice.notes) {
              const source = note.sourceNote;
              if (source.isRest()) continue;
              const tick = Math.round(source.ParentVoiceEntry.Timestamp.RealValue * WHOLE);
              const place = { part: partOfStaff[staff], bar, tick, key: source.halfTone + OCTAVE };
              const id = ids.get(writtenPlace(place));
              if (id !== undefined) shapes.set(id, [...(shapes.get(id) ?? []), ...drawn(note)]);
            }
      }),
    );
    return shapes;
  }
}

/** Heads of one note of a chord, whose elements stand in the order of its notes. */
function drawn(note: GraphicalNote): Element[] {
  const own = note as GraphicalNote & {
    getSVGGElement?: () => SVGGElement | undefined;
    vfnoteIndex?: number;
  };
  const group = own.getSVGGElement?.();
  const heads = group?.querySelectorAll('.vf-notehead');
  const head = heads?.[own.vfnoteIndex ?? 0];
  return head ? [head] : group ? [group] : [];
}
