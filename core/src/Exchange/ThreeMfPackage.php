<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Mesh\TriangleMesh;
use XMLReader;

/**
 * An open 3MF container and the models in it. XML with a document type (where entities would be declared) is refused.
 *
 * @internal
 *
 * @phpstan-type Placement array{object: string, path: string, transform: list<float>|null}
 * @phpstan-type Model array{unit: string, objects: array<string, array{name: string, positions: list<float>, faces: list<int>, components: list<Placement>}>, build: list<Placement>}
 */
final class ThreeMfPackage
{
    /** Components in components. */
    private const DEPTH = 16;

    private const FACES = 50_000_000;

    /** @var array<string, Model> by path in the container */
    private array $models = [];

    private function __construct(private readonly string $path, private readonly ZipParts $zip)
    {
    }

    public static function open(string $path): self
    {
        return new self($path, ZipParts::open($path));
    }

    public function close(): void
    {
        $this->zip->close();
    }

    /**
     * The path of the model that the container names as its first.
     *
     * @throws UnreadableFile when it names none
     */
    public function root(): string
    {
        $rels = $this->zip->has('_rels/.rels') ? $this->zip->text('_rels/.rels') : '';
        if (preg_match_all('/<Relationship\b[^>]*>/', $rels, $found) > 0) {
            foreach ($found[0] as $relationship) {
                if (str_contains($relationship, '/3dmodel"') && preg_match('/\bTarget="([^"]+)"/', $relationship, $target) === 1) {
                    return ltrim($target[1], '/');
                }
            }
        }
        foreach ($this->zip->names() as $name) {
            if (str_ends_with(strtolower($name), '.model')) {
                return $name;
            }
        }
        throw UnreadableFile::at($this->path, '', 'the container holds no model');
    }

    /** @return list<array{name: string, mesh: TriangleMesh}> the items of the build, each where it is placed */
    public function built(): array
    {
        $root = $this->root();
        $items = [];
        foreach ($this->model($root)['build'] as $item) {
            $positions = $faces = [];
            $this->place($item, $root, [], $positions, $faces, 0);
            if ($faces !== []) {
                $object = $this->model($item['path'] === '' ? $root : $item['path'])['objects'][$item['object']];
                $items[] = ['name' => $object['name'] === '' ? "object {$item['object']}" : $object['name'], 'mesh' => TriangleMesh::fromFlat($positions, $faces)];
            }
        }

        return $items;
    }

    /**
     * @param  Placement  $item
     * @param  string  $from  the model that speaks of it
     * @param  list<list<float>>  $transforms  outermost last
     * @param  list<float>  $positions  (changed)
     * @param  list<int>  $faces  (changed)
     */
    private function place(array $item, string $from, array $transforms, array &$positions, array &$faces, int $depth): void
    {
        if ($depth > self::DEPTH) {
            throw UnreadableFile::at($this->path, "object {$item['object']}", 'components stand in each other more than '.self::DEPTH.' deep, or in a circle');
        }
        $path = $item['path'] === '' ? $from : $item['path'];
        $object = $this->model($path)['objects'][$item['object']] ?? null;
        if ($object === null) {
            throw UnreadableFile::at($this->path, $path, "object {$item['object']} is named but is not there");
        }
        if ($item['transform'] !== null) {
            array_unshift($transforms, $item['transform']);
        }
        foreach ($object['components'] as $component) {
            $this->place($component, $path, $transforms, $positions, $faces, $depth + 1);
        }
        if (count($faces) + count($object['faces']) > 3 * self::FACES) {
            throw UnreadableFile::at($this->path, "object {$item['object']}", 'the build has more than '.self::FACES.' faces');
        }
        $first = intdiv(count($positions), 3);
        $p = $object['positions'];
        $mirrored = false;
        foreach ($transforms as $t) {
            for ($o = 0, $n = count($p); $o < $n; $o += 3) {
                [$x, $y, $z] = [$p[$o], $p[$o + 1], $p[$o + 2]];
                // Row vectors (core specification, section 3.3): the last row is the shift.
                $p[$o] = $x * $t[0] + $y * $t[3] + $z * $t[6] + $t[9];
                $p[$o + 1] = $x * $t[1] + $y * $t[4] + $z * $t[7] + $t[10];
                $p[$o + 2] = $x * $t[2] + $y * $t[5] + $z * $t[8] + $t[11];
            }
            $determinant = $t[0] * ($t[4] * $t[8] - $t[5] * $t[7]) - $t[1] * ($t[3] * $t[8] - $t[5] * $t[6]) + $t[2] * ($t[3] * $t[7] - $t[4] * $t[6]);
            $mirrored = $mirrored !== ($determinant < 0.0);
        }
        foreach ($p as $v) {
            $positions[] = $v;
        }
        $f = $object['faces'];
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            $faces[] = $first + $f[$o];
            $faces[] = $first + $f[$o + ($mirrored ? 2 : 1)];
            $faces[] = $first + $f[$o + ($mirrored ? 1 : 2)];
        }
    }

    /** @return Model */
    public function model(string $path): array
    {
        return $this->models[$path] ??= $this->parse($path);
    }

    /** @return Model */
    private function parse(string $path): array
    {
        $file = OwnFile::make();
        $before = libxml_use_internal_errors(true);
        try {
            $this->zip->unpack($path, $file);
            $xml = new XMLReader;
            if (! $xml->open($file, null, LIBXML_NONET | LIBXML_COMPACT)) {
                throw UnreadableFile::at($this->path, $path, 'the model cannot be opened');
            }
            $model = $this->elements($xml, $path);
            $problem = libxml_get_last_error();
            if ($problem !== false && $problem->level >= LIBXML_ERR_ERROR) {
                throw UnreadableFile::at($this->path, "$path, line $problem->line", 'the XML is damaged: '.trim($problem->message));
            }

            return $model;
        } finally {
            libxml_clear_errors();
            libxml_use_internal_errors($before);
            @unlink($file);
        }
    }

    /** @return Model */
    private function elements(XMLReader $xml, string $path): array
    {
        $model = ['unit' => '', 'objects' => [], 'build' => []];
        $object = $name = '';
        $positions = $faces = [];
        $components = [];
        while ($xml->read()) {
            if ($xml->nodeType === XMLReader::DOC_TYPE) {
                throw UnreadableFile::at($this->path, $path, 'the model declares a document type, which 3MF forbids');
            }
            if ($xml->nodeType === XMLReader::END_ELEMENT && $xml->localName === 'object') {
                $this->checked($positions, $faces, "$path, object $object");
                $model['objects'][$object] = ['name' => $name, 'positions' => $positions, 'faces' => $faces, 'components' => $components];
                $positions = $faces = $components = [];
            }
            if ($xml->nodeType !== XMLReader::ELEMENT) {
                continue;
            }
            switch ($xml->localName) {
                case 'vertex':
                    foreach (['x', 'y', 'z'] as $axis) {
                        $value = $xml->getAttribute($axis);
                        if (! is_numeric($value) || ! is_finite((float) $value)) {
                            throw UnreadableFile::at($this->path, "$path, object $object, vertex ".intdiv(count($positions), 3), "$axis is not a finite number");
                        }
                        $positions[] = (float) $value;
                    }
                    break;
                case 'triangle':
                    foreach (['v1', 'v2', 'v3'] as $corner) {
                        $value = (string) $xml->getAttribute($corner);
                        $faces[] = ctype_digit($value) ? (int) $value : -1;
                    }
                    break;
                case 'object':
                    $object = (string) $xml->getAttribute('id');
                    $name = trim((string) $xml->getAttribute('name'));
                    break;
                case 'component':
                    $components[] = $this->placement($xml, $path);
                    break;
                case 'item':
                    $model['build'][] = $this->placement($xml, $path);
                    break;
                case 'model':
                    $model['unit'] = $xml->getAttribute('unit') ?? 'millimeter';
                    break;
            }
        }
        if ($model['unit'] === '') {
            throw UnreadableFile::at($this->path, $path, 'there is no model element; is it a 3MF file?');
        }

        return $model;
    }

    /**
     * @param  list<float>  $positions
     * @param  list<int>  $faces
     */
    private function checked(array $positions, array $faces, string $place): void
    {
        $n = intdiv(count($positions), 3);
        foreach ($faces as $k => $v) {
            if ($v < 0 || $v >= $n) {
                throw UnreadableFile::at($this->path, "$place, triangle ".intdiv($k, 3), "it names a vertex that is not there; there are $n");
            }
        }
    }

    /** @return Placement */
    private function placement(XMLReader $xml, string $path): array
    {
        $text = $xml->getAttribute('transform');
        $transform = null;
        if ($text !== null) {
            $numbers = preg_split('/\s+/', trim($text)) ?: [];
            if (count($numbers) !== 12 || array_filter($numbers, fn (string $v) => ! is_numeric($v) || ! is_finite((float) $v)) !== []) {
                throw UnreadableFile::at($this->path, $path, 'a transform needs twelve numbers');
            }
            $transform = array_map(floatval(...), $numbers);
        }
        $other = $xml->getAttributeNs('path', 'http://schemas.microsoft.com/3dmanufacturing/production/2015/06') ?? '';

        return ['object' => (string) $xml->getAttribute('objectid'), 'path' => ltrim($other, '/'), 'transform' => $transform];
    }
}
