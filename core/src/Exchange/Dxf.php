<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Unit;

/** DXF of release 2000 (AC1015): a layer for each of the drawing, a light polyline a curve, arcs as bulges, the unit in the header. */
final class Dxf
{
    /** The layer of notes: it is switched off at one stroke. */
    private const NOTES = 'Dimensions';

    /** $INSUNITS. */
    private const UNITS = ['in' => 1, 'ft' => 2, 'mm' => 4, 'cm' => 5, 'm' => 6];

    private int $handle = 0x100;

    /** @var list<string> pairs of a group code and a value, a line each */
    private array $lines = [];

    /** Handles of what refers to each other. */
    private const LAYERS = '2';

    private const BLOCK_RECORDS = '1';

    private const MODEL = '1F';

    private const PAPER = '1B';

    /** A drawing as DXF, in the unit of the drawing. */
    public static function of(Drawing $drawing): string
    {
        $one = new self;
        $one->header($drawing);
        $one->tables($drawing);
        $one->blocks();
        $one->entities($drawing);
        $one->objects();

        return self::encoded(implode("\n", $one->lines)."\n");
    }

    private function put(int|string|float ...$pairs): void
    {
        foreach (array_chunk($pairs, 2) as [$code, $value]) {
            $this->lines[] = (string) $code;
            $this->lines[] = is_float($value) ? Format::plain($value, 12) : (string) $value;
        }
    }

    private function next(): string
    {
        return strtoupper(dechex($this->handle++));
    }

    private function header(Drawing $drawing): void
    {
        [$left, $bottom, $right, $top] = $drawing->box();
        $this->put(0, 'SECTION', 2, 'HEADER', 9, '$ACADVER', 1, 'AC1015', 9, '$DWGCODEPAGE', 3, 'ANSI_1252', 9, '$INSUNITS', 70, self::UNITS[$drawing->unit->value], 9, '$MEASUREMENT', 70, in_array($drawing->unit, [Unit::Inch, Unit::Foot], true) ? 0 : 1);
        $this->put(9, '$EXTMIN', 10, $left, 20, $bottom, 30, 0.0, 9, '$EXTMAX', 10, $right, 20, $top, 30, 0.0, 9, '$HANDSEED', 5, 'FFFFF', 0, 'ENDSEC');
        $this->put(0, 'SECTION', 2, 'CLASSES', 0, 'ENDSEC');
    }

    private function tables(Drawing $drawing): void
    {
        $this->put(0, 'SECTION', 2, 'TABLES');
        $this->table('VPORT', '8', []);
        $this->table('LTYPE', '5', [['14', 'AcDbLinetypeTableRecord', 'ByBlock'], ['15', 'AcDbLinetypeTableRecord', 'ByLayer'], ['16', 'AcDbLinetypeTableRecord', 'Continuous']], [3, '', 72, 65, 73, 0, 40, 0.0]);
        $names = ['0', ...array_map(self::layerName(...), array_column($drawing->layers, 'name')), ...($drawing->notes === [] ? [] : [self::NOTES])];
        $this->put(0, 'TABLE', 2, 'LAYER', 5, self::LAYERS, 330, 0, 100, 'AcDbSymbolTable', 70, count($names));
        foreach ($names as $k => $name) {
            $this->put(0, 'LAYER', 5, $k === 0 ? '10' : $this->next(), 330, self::LAYERS, 100, 'AcDbSymbolTableRecord', 100, 'AcDbLayerTableRecord', 2, $name, 70, 0, 62, 7, 6, 'Continuous', 370, -3, 390, 'F');
        }
        $this->put(0, 'ENDTAB');
        $this->table('STYLE', '3', [['11', 'AcDbTextStyleTableRecord', 'Standard']], [40, 0.0, 41, 1.0, 50, 0.0, 71, 0, 42, 2.5, 3, 'txt', 4, '']);
        $this->table('VIEW', '6', []);
        $this->table('UCS', '7', []);
        $this->table('APPID', '9', [['12', 'AcDbRegAppTableRecord', 'ACAD']]);
        $this->put(0, 'TABLE', 2, 'DIMSTYLE', 5, 'A', 330, 0, 100, 'AcDbSymbolTable', 70, 0, 100, 'AcDbDimStyleTable', 71, 0, 0, 'ENDTAB');
        $this->put(0, 'TABLE', 2, 'BLOCK_RECORD', 5, self::BLOCK_RECORDS, 330, 0, 100, 'AcDbSymbolTable', 70, 2);
        foreach ([[self::MODEL, '*Model_Space', '22'], [self::PAPER, '*Paper_Space', '1E']] as [$handle, $name, $layout]) {
            $this->put(0, 'BLOCK_RECORD', 5, $handle, 330, self::BLOCK_RECORDS, 100, 'AcDbSymbolTableRecord', 100, 'AcDbBlockTableRecord', 2, $name, 340, $layout);
        }
        $this->put(0, 'ENDTAB', 0, 'ENDSEC');
    }

    /**
     * @param  list<array{string, string, string}>  $records  handle, class and name
     * @param  list<int|string|float>  $more  pairs of each record
     */
    private function table(string $name, string $handle, array $records, array $more = []): void
    {
        $this->put(0, 'TABLE', 2, $name, 5, $handle, 330, 0, 100, 'AcDbSymbolTable', 70, count($records));
        foreach ($records as [$own, $class, $called]) {
            $this->put(0, $name, 5, $own, 330, $handle, 100, 'AcDbSymbolTableRecord', 100, $class, 2, $called, 70, 0, ...$more);
        }
        $this->put(0, 'ENDTAB');
    }

    private function blocks(): void
    {
        $this->put(0, 'SECTION', 2, 'BLOCKS');
        foreach ([[self::MODEL, '*Model_Space', '20', '21', []], [self::PAPER, '*Paper_Space', '1C', '1D', [67, 1]]] as [$owner, $name, $begin, $end, $paper]) {
            $this->put(0, 'BLOCK', 5, $begin, 330, $owner, 100, 'AcDbEntity', ...[...$paper, 8, '0', 100, 'AcDbBlockBegin', 2, $name, 70, 0, 10, 0.0, 20, 0.0, 30, 0.0, 3, $name, 1, '']);
            $this->put(0, 'ENDBLK', 5, $end, 330, $owner, 100, 'AcDbEntity', ...[...$paper, 8, '0', 100, 'AcDbBlockEnd']);
        }
        $this->put(0, 'ENDSEC');
    }

    private function entities(Drawing $drawing): void
    {
        $this->put(0, 'SECTION', 2, 'ENTITIES');
        foreach ($drawing->layers as $layer) {
            foreach ($layer['paths'] as $path) {
                $this->put(0, 'LWPOLYLINE', 5, $this->next(), 330, self::MODEL, 100, 'AcDbEntity', 8, self::layerName($layer['name']), 100, 'AcDbPolyline', 90, count($path['vertices']), 70, $path['closed'] ? 1 : 0);
                foreach ($path['vertices'] as [$x, $y, $bulge]) {
                    $this->put(10, $x, 20, $y);
                    $bulge === 0.0 || $this->put(42, $bulge);
                }
            }
        }
        $this->notes($drawing);
        $this->put(0, 'ENDSEC');
    }

    /** Dimensions as lines and texts: every reader shows these as they are. */
    private function notes(Drawing $drawing): void
    {
        $letters = $drawing->letters();
        foreach ($drawing->notes as $note) {
            foreach ($note['lines'] as [$x, $y, $u, $v]) {
                $this->put(0, 'LINE', 5, $this->next(), 330, self::MODEL, 100, 'AcDbEntity', 8, self::NOTES, 100, 'AcDbLine', 10, $x, 20, $y, 30, 0.0, 11, $u, 21, $v, 31, 0.0);
            }
            [$x, $y] = $note['at'];
            // The sign of a diameter has a code of its own in texts of this format.
            $words = str_replace('Ø', '%%c', $note['words']);
            $this->put(0, 'TEXT', 5, $this->next(), 330, self::MODEL, 100, 'AcDbEntity', 8, self::NOTES, 100, 'AcDbText', 10, $x, 20, $y, 30, 0.0, 40, $letters, 1, $words, 50, $note['turn'], 72, 1, 11, $x, 21, $y, 31, 0.0, 100, 'AcDbText', 73, 1);
        }
    }

    private function objects(): void
    {
        $this->put(0, 'SECTION', 2, 'OBJECTS');
        $this->put(0, 'DICTIONARY', 5, 'C', 330, 0, 100, 'AcDbDictionary', 281, 1, 3, 'ACAD_GROUP', 350, 'D', 3, 'ACAD_LAYOUT', 350, '1A', 3, 'ACAD_PLOTSTYLENAME', 350, 'E');
        $this->put(0, 'DICTIONARY', 5, 'D', 330, 'C', 100, 'AcDbDictionary', 281, 1);
        $this->put(0, 'DICTIONARY', 5, '1A', 330, 'C', 100, 'AcDbDictionary', 281, 1, 3, 'Model', 350, '22', 3, 'Layout1', 350, '1E');
        $this->put(0, 'ACDBDICTIONARYWDFLT', 5, 'E', 330, 'C', 100, 'AcDbDictionary', 281, 1, 3, 'Normal', 350, 'F', 100, 'AcDbDictionaryWithDefault', 340, 'F');
        $this->put(0, 'ACDBPLACEHOLDER', 5, 'F', 330, 'E');
        foreach ([['22', 'Model', 0, self::MODEL, 1024], ['1E', 'Layout1', 1, self::PAPER, 0]] as [$handle, $name, $order, $block, $flags]) {
            $this->put(0, 'LAYOUT', 5, $handle, 330, '1A', 100, 'AcDbPlotSettings', 1, '', 2, 'none_device', 4, '', 6, '', 40, 0.0, 41, 0.0, 42, 0.0, 43, 0.0, 44, 0.0, 45, 0.0, 46, 0.0, 47, 0.0, 48, 0.0, 49, 0.0, 140, 0.0, 141, 0.0, 142, 1.0, 143, 1.0, 70, $flags, 72, 0, 73, 0, 74, 5, 7, '', 75, 16, 147, 1.0, 148, 0.0, 149, 0.0);
            $this->put(100, 'AcDbLayout', 1, $name, 70, 1, 71, $order, 10, 0.0, 20, 0.0, 11, 420.0, 21, 297.0, 12, 0.0, 22, 0.0, 32, 0.0, 14, 0.0, 24, 0.0, 34, 0.0, 15, 0.0, 25, 0.0, 35, 0.0, 146, 0.0, 13, 0.0, 23, 0.0, 33, 0.0, 16, 1.0, 26, 0.0, 36, 0.0, 17, 0.0, 27, 1.0, 37, 0.0, 76, 0, 330, $block);
        }
        $this->put(0, 'ENDSEC', 0, 'EOF');
    }

    /** Without the signs that names of layers may not have. */
    private static function layerName(string $name): string
    {
        return (string) preg_replace('#[<>/\\\\":;?*|=`,\x00-\x1f]#u', '_', $name);
    }

    /** Texts of this release are not Unicode: letters that its code page does not have become a line. */
    private static function encoded(string $text): string
    {
        $before = mb_substitute_character();
        mb_substitute_character(ord('_'));
        $encoded = mb_convert_encoding($text, 'Windows-1252', 'UTF-8');
        mb_substitute_character($before);

        return (string) $encoded;
    }
}
