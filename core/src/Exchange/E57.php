<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Cloud\Raster;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use SimpleXMLElement;

/**
 * E57: scans with their poses, colour and intensity; lengths in metres.
 *
 * Source    ASTM E2807-11, "Standard Specification for 3D Imaging Data Exchange".
 * Departs   pictures are passed over; an intensity is shown as grey where there is no colour.
 */
final class E57 implements FileFormat
{
    private const RECORDS_A_PACKET = 2000;

    /** A grid with more rays than this for each point is taken for damage, and left out. */
    private const LEAST_FILLED = 200;

    public function name(): string
    {
        return 'e57';
    }

    public function endings(): array
    {
        return ['e57'];
    }

    public function read(string $path): array
    {
        $file = E57File::open($path);
        try {
            $scans = [];
            foreach ($this->root($path, $file->xml())->data3D->vectorChild ?? [] as $scan) {
                $loaded = $this->scan($path, $file, $scan, count($scans) + 1);
                if ($loaded !== null) {
                    $scans[] = $loaded;
                }
            }
        } finally {
            $file->close();
        }
        if ($scans === []) {
            throw UnreadableFile::at($path, '', 'no scan in it holds a point');
        }

        return count($scans) === 1 ? [$scans[0]->named('')] : $scans;
    }

    private function root(string $path, string $text): SimpleXMLElement
    {
        if (stripos($text, '<!DOCTYPE') !== false) {
            throw UnreadableFile::at($path, 'XML', 'it declares a document type, which has no place in E57');
        }
        $before = libxml_use_internal_errors(true);
        try {
            $root = simplexml_load_string($text, SimpleXMLElement::class, LIBXML_NONET | LIBXML_COMPACT);
            if ($root === false) {
                $problem = libxml_get_last_error();
                throw UnreadableFile::at($path, 'XML'.($problem === false ? '' : ", line $problem->line"), 'the XML is damaged'.($problem === false ? '' : ': '.trim($problem->message)));
            }

            return $root;
        } finally {
            libxml_clear_errors();
            libxml_use_internal_errors($before);
        }
    }

    private function scan(string $path, E57File $file, SimpleXMLElement $scan, int $nth): ?Loaded
    {
        $name = trim((string) $scan->name) ?: "scan $nth";
        $place = "scan $nth";
        $count = (string) $scan->points['recordCount'];
        if (! ctype_digit($count) || ! isset($scan->points->prototype)) {
            throw UnreadableFile::at($path, $place, 'it has no points, or does not say how many');
        }
        if ((int) $count === 0) {
            return null;
        }
        // A point takes a bit at the least, unless all of them are the same.
        if ((int) $count > 8 * (int) filesize($path)) {
            throw UnreadableFile::at($path, $place, "$count points are promised, which the file cannot hold");
        }
        $points = new E57Points($path, $file, $scan->points->prototype, $place);
        $cartesian = ['cartesianX', 'cartesianY', 'cartesianZ'];
        $spherical = ['sphericalRange', 'sphericalAzimuth', 'sphericalElevation'];
        $isCartesian = array_diff($cartesian, $points->names()) === [];
        $places = $isCartesian ? $cartesian : $spherical;
        if (array_diff($places, $points->names()) !== []) {
            throw UnreadableFile::at($path, $place, 'its points have neither X, Y and Z nor range and angles');
        }
        $validity = $isCartesian ? 'cartesianInvalidState' : 'sphericalInvalidState';
        $rgb = ['colorRed', 'colorGreen', 'colorBlue'];
        $colour = array_diff($rgb, $points->names()) === [] ? $rgb : array_values(array_intersect(['intensity'], $points->names()));
        $grid = ['rowIndex', 'columnIndex'];
        $grid = array_diff($grid, $points->names()) === [] ? $grid : [];
        $values = $points->read((int) $scan->points['fileOffset'], (int) $count, [...$places, ...$colour, ...$grid, ...array_values(array_intersect([$validity], $points->names()))]);
        $cloud = $this->cloud($path, $place, $values, $places, $colour, $values[$validity] ?? [], fn (string $field) => $this->limits($scan, $field, $points->range($field), $values[$field]));
        if ($cloud === null) {
            return null;
        }
        $pose = $this->pose($path, $place, $scan);
        // The scanner stands in the origin of its own coordinates; points that came without a pose or a grid may be in any others.
        $structured = in_array('rowIndex', $points->names(), true) || ! $isCartesian;
        if ($structured || ! $pose->isIdentity()) {
            $cloud = PointCloud::fromFlat($cloud->positions, [], $cloud->colours, [0.0, 0.0, 0.0], [], $cloud->raster);
        }

        return new Loaded('e57', $cloud, Unit::Metre, $name, $pose);
    }

    /**
     * @param  array<string, list<float>>  $values
     * @param  list<string>  $places
     * @param  list<string>  $colour  three fields, one for grey, or none
     * @param  list<float>  $invalid
     * @param  callable(string): array{float, float}  $limits
     */
    private function cloud(string $path, string $place, array $values, array $places, array $colour, array $invalid, callable $limits): ?PointCloud
    {
        [$a, $b, $c] = [$values[$places[0]], $values[$places[1]], $values[$places[2]]];
        $isSpherical = $places[0] === 'sphericalRange';
        $shades = [];
        foreach ($colour as $field) {
            [$least, $most] = $limits($field);
            $factor = $most > $least ? 255.0 / ($most - $least) : 1.0;
            $shades[] = array_map(fn (float $v) => (int) max(0.0, min(255.0, ($v - $least) * $factor + 0.5)), $values[$field]);
        }
        $positions = $colours = $rows = $columns = [];
        foreach ($a as $k => $x) {
            if (($invalid[$k] ?? 0.0) > 0.0) {
                continue;
            }
            [$y, $z] = [$b[$k], $c[$k]];
            if ($isSpherical) {
                [$x, $y, $z] = [$x * cos($z) * cos($y), $x * cos($z) * sin($y), $x * sin($z)];
            }
            if (! is_finite($x) || ! is_finite($y) || ! is_finite($z)) {
                throw UnreadableFile::at($path, "$place, point $k", 'a coordinate is not a finite number');
            }
            $positions[] = $x;
            $positions[] = $y;
            $positions[] = $z;
            if ($shades !== []) {
                $colours[] = $shades[0][$k] << 16 | ($shades[1] ?? $shades[0])[$k] << 8 | ($shades[2] ?? $shades[0])[$k];
            }
            if (isset($values['rowIndex'])) {
                $rows[] = (int) $values['rowIndex'][$k];
                $columns[] = (int) $values['columnIndex'][$k];
            }
        }

        return $positions === [] ? null : PointCloud::fromFlat($positions, [], $colours, null, [], self::raster($rows, $columns));
    }

    /**
     * The grid of rays, if rows and columns are one; some files number all points as one row.
     *
     * @param  list<int>  $rows
     * @param  list<int>  $columns
     */
    private static function raster(array $rows, array $columns): ?Raster
    {
        if ($rows === []) {
            return null;
        }
        [$row0, $column0] = [min($rows), min($columns)];
        $height = max($rows) - $row0 + 1;
        $width = max($columns) - $column0 + 1;
        if ($height < 2 || $width < 2 || $height * $width > self::LEAST_FILLED * count($rows)) {
            return null;
        }

        return Raster::of($width, $height, array_map(fn (int $row, int $column) => ($row - $row0) * $width + $column - $column0, $rows, $columns));
    }

    /**
     * What counts as black and as full: the limits that the scan names, else those of the field's kind, else of its values.
     *
     * @param  array{float, float}|null  $range
     * @param  list<float>  $values
     * @return array{float, float}
     */
    private function limits(SimpleXMLElement $scan, string $field, ?array $range, array $values): array
    {
        $limits = $field === 'intensity' ? $scan->intensityLimits : $scan->colorLimits;
        $least = (string) ($limits->{$field.'Minimum'} ?? '');
        $most = (string) ($limits->{$field.'Maximum'} ?? '');

        return is_numeric($most) ? [(float) $least, (float) $most] : ($range ?? [min($values), max($values)]);
    }

    private function pose(string $path, string $place, SimpleXMLElement $scan): RigidTransform
    {
        if (! isset($scan->pose)) {
            return RigidTransform::identity();
        }
        $number = fn (?SimpleXMLElement $element, float $default): float => $element === null || trim((string) $element) === '' ? $default : (float) $element;
        $q = $scan->pose->rotation;
        $t = $scan->pose->translation;
        // An empty element stands for 0 (section 8.4), a missing rotation for none.
        $w = isset($q->w) ? $number($q->w, 0.0) : 1.0;
        [$x, $y, $z] = [$number($q->x ?? null, 0.0), $number($q->y ?? null, 0.0), $number($q->z ?? null, 0.0)];
        $length = sqrt($w * $w + $x * $x + $y * $y + $z * $z);
        $shift = [$number($t->x ?? null, 0.0), $number($t->y ?? null, 0.0), $number($t->z ?? null, 0.0)];
        if ($length < 1e-9 || ! is_finite($length + $shift[0] + $shift[1] + $shift[2])) {
            throw UnreadableFile::at($path, $place, 'its pose is not a turn and a shift');
        }
        [$w, $x, $y, $z] = [$w / $length, $x / $length, $y / $length, $z / $length];

        return RigidTransform::of([
            1 - 2 * ($y * $y + $z * $z), 2 * ($x * $y - $w * $z), 2 * ($x * $z + $w * $y),
            2 * ($x * $y + $w * $z), 1 - 2 * ($x * $x + $z * $z), 2 * ($y * $z - $w * $x),
            2 * ($x * $z - $w * $y), 2 * ($y * $z + $w * $x), 1 - 2 * ($x * $x + $y * $y),
        ], $shift);
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        if ($geometry instanceof TriangleMesh) {
            throw UnsuitableInput::because('E57 holds scans only; write a mesh as STL, PLY, OBJ, 3MF or GLB.');
        }
        $metres = $options->unit->inMillimetres() / 1000.0;
        $sensor = $geometry->sensorOrigin;
        $shift = $sensor === null ? [0.0, 0.0, 0.0] : [$sensor[0] * $metres, $sensor[1] * $metres, $sensor[2] * $metres];
        $points = RigidTransform::shift(-$shift[0], -$shift[1], -$shift[2])->points($geometry->scaled($metres)->positions);
        $packets = $this->packets($points, $geometry->colours, $geometry->raster);
        $first = self::physical(48 + 32);
        // An index with one entry: the first packet, where record 0 lies.
        $index = pack('CCvvC', 0, 0, 31, 1, 0).str_repeat("\0", 9).pack('PP', 0, $first);
        $section = pack('C', 1).str_repeat("\0", 7).pack('PPP', 32 + strlen($packets) + strlen($index), $first, self::physical(80 + strlen($packets))).$packets.$index;
        $xml = $this->xml($points, $geometry->colours !== [], $geometry->raster, $sensor === null ? null : $shift, hash('sha256', $packets));
        $logical = 48 + strlen($section) + strlen($xml);
        $head = 'ASTM-E57'.pack('VVPPPP', 1, 0, (int) ceil($logical / E57File::CONTENT) * E57File::PAGE, self::physical(48 + strlen($section)), strlen($xml), E57File::PAGE);
        foreach (str_split($head.$section.$xml, E57File::CONTENT) as $content) {
            $content = str_pad($content, E57File::CONTENT, "\0");
            fwrite($stream, $content.hash('crc32c', $content, true));
        }
    }

    private static function physical(int $logical): int
    {
        return intdiv($logical, E57File::CONTENT) * E57File::PAGE + $logical % E57File::CONTENT;
    }

    /**
     * @param  array<int, float>  $points
     * @param  array<int, int>  $colours
     */
    private function packets(array $points, array $colours, ?Raster $raster): string
    {
        $packets = '';
        for ($i = 0, $n = intdiv(count($points), 3); $i < $n; $i += self::RECORDS_A_PACKET) {
            $many = min(self::RECORDS_A_PACKET, $n - $i);
            $x = $y = $z = $rows = $columns = [];
            $r = $g = $b = '';
            for ($k = $i; $k < $i + $many; $k++) {
                $x[] = $points[3 * $k];
                $y[] = $points[3 * $k + 1];
                $z[] = $points[3 * $k + 2];
                if ($colours !== []) {
                    $r .= chr($colours[$k] >> 16);
                    $g .= chr($colours[$k] >> 8 & 255);
                    $b .= chr($colours[$k] & 255);
                }
                if ($raster !== null) {
                    $rows[] = intdiv($raster->cells[$k], $raster->columns);
                    $columns[] = $raster->cells[$k] % $raster->columns;
                }
            }
            $streams = [pack('e*', ...$x), pack('e*', ...$y), pack('e*', ...$z), ...($colours === [] ? [] : [$r, $g, $b]), ...($raster === null ? [] : [pack('V*', ...$rows), pack('V*', ...$columns)])];
            $body = pack('v', count($streams)).pack('v*', ...array_map(strlen(...), $streams)).implode('', $streams);
            $body .= str_repeat("\0", -(4 + strlen($body)) & 3);
            $packets .= pack('CCv', 1, 0, 4 + strlen($body) - 1).$body;
        }

        return $packets;
    }

    /**
     * @param  array<int, float>  $points  metres
     * @param  array{float, float, float}|null  $sensor
     */
    private function xml(array $points, bool $coloured, ?Raster $raster, ?array $sensor, string $hash): string
    {
        $box = BoundingBox::of($points);
        $guid = fn (string $of): string => '{'.implode('-', [substr($of, 0, 8), substr($of, 8, 4), substr($of, 12, 4), substr($of, 16, 4), substr($of, 20, 12)]).'}';
        $float = fn (string $name, float $value): string => sprintf('<%s type="Float">%.17g</%s>', $name, $value, $name);
        $bounds = '';
        foreach (['x', 'y', 'z'] as $k => $axis) {
            $bounds .= $float($axis.'Minimum', $box->min[$k]).$float($axis.'Maximum', $box->max[$k]);
        }
        $pose = $sensor === null ? '' : '<pose type="Structure"><rotation type="Structure">'.$float('w', 1.0).$float('x', 0.0).$float('y', 0.0).$float('z', 0.0)
            .'</rotation><translation type="Structure">'.$float('x', $sensor[0]).$float('y', $sensor[1]).$float('z', $sensor[2]).'</translation></pose>';
        $prototype = '<cartesianX type="Float"/><cartesianY type="Float"/><cartesianZ type="Float"/>';
        $limits = '';
        foreach ($coloured ? ['colorRed', 'colorGreen', 'colorBlue'] : [] as $name) {
            $prototype .= "<$name type=\"Integer\" minimum=\"0\" maximum=\"255\"/>";
            $limits .= "<{$name}Minimum type=\"Integer\">0</{$name}Minimum><{$name}Maximum type=\"Integer\">255</{$name}Maximum>";
        }
        if ($raster !== null) {
            // 32 bits each, whatever the size of the grid.
            $prototype .= '<rowIndex type="Integer" minimum="0" maximum="4294967295"/><columnIndex type="Integer" minimum="0" maximum="4294967295"/>';
        }
        $limits = $limits === '' ? '' : "<colorLimits type=\"Structure\">$limits</colorLimits>";

        return '<?xml version="1.0" encoding="UTF-8"?>'."\n".'<e57Root type="Structure" xmlns="http://www.astm.org/COMMIT/E57/2010-e57-v1.0">'
            .'<formatName type="String"><![CDATA[ASTM E57 3D Imaging Data File]]></formatName><guid type="String">'.$guid($hash).'</guid>'
            .'<versionMajor type="Integer">1</versionMajor><versionMinor type="Integer">0</versionMinor>'
            .'<data3D type="Vector" allowHeterogeneousChildren="1"><vectorChild type="Structure"><guid type="String">'.$guid(strrev($hash)).'</guid>'
            .$pose.'<cartesianBounds type="Structure">'.$bounds.'</cartesianBounds>'.self::indexBounds($raster).$limits
            .'<points type="CompressedVector" fileOffset="48" recordCount="'.intdiv(count($points), 3).'"><prototype type="Structure">'.$prototype
            .'</prototype><codecs type="Vector" allowHeterogeneousChildren="1"></codecs></points></vectorChild></data3D>'
            .'<images2D type="Vector" allowHeterogeneousChildren="1"></images2D></e57Root>';
    }

    private static function indexBounds(?Raster $raster): string
    {
        if ($raster === null) {
            return '';
        }
        $integer = fn (string $name, int $value): string => sprintf('<%s type="Integer">%d</%s>', $name, $value, $name);

        return '<indexBounds type="Structure">'.$integer('rowMinimum', 0).$integer('rowMaximum', $raster->rows - 1).$integer('columnMinimum', 0).$integer('columnMaximum', $raster->columns - 1).'</indexBounds>';
    }
}
