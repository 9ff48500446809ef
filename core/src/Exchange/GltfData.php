<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Mesh\EvidenceColours;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Mesh\TriangleMesh;

/**
 * The JSON and the numbers of a glTF file. Data beside the file are taken from its own folder only, whatever path the file names.
 *
 * @internal
 */
final class GltfData
{
    /** component type => [bytes, unpack code, divisor when normalised] */
    private const KINDS = [5120 => [1, 'c', 127.0], 5121 => [1, 'C', 255.0], 5122 => [2, 's', 32767.0], 5123 => [2, 'v', 65535.0], 5125 => [4, 'V', 4294967295.0], 5126 => [4, 'g', 1.0]];

    private const WIDTHS = ['SCALAR' => 1, 'VEC2' => 2, 'VEC3' => 3, 'VEC4' => 4];

    /** @var array<int, string> buffers read so far */
    private array $buffers = [];

    /** @param  array<string, mixed>  $json */
    private function __construct(private readonly string $path, public readonly array $json, private readonly string $binary)
    {
    }

    /**
     * The parts of a glTF file, binary or text.
     *
     * @throws UnreadableFile when they are damaged or of another version
     */
    public static function open(string $path): self
    {
        $bytes = (string) file_get_contents($path);
        $binary = '';
        if (str_starts_with($bytes, 'glTF')) {
            $size = strlen($bytes);
            $length = $size >= 20 ? (unpack('V', $bytes, 8) ?: [1 => 0])[1] : PHP_INT_MAX;
            if ($length > $size) {
                throw UnreadableFile::at($path, "byte $size", 'the file is shorter than it says; copy it again');
            }
            $text = '';
            for ($at = 12; $at + 8 <= $length; $at += 8 + $many) {
                $many = (unpack('V', $bytes, $at) ?: [1 => 0])[1];
                if ($at + 8 + $many > $length) {
                    throw UnreadableFile::at($path, "byte $at", 'a chunk is longer than the file; copy it again');
                }
                $kind = substr($bytes, $at + 4, 4);
                if ($kind === 'JSON' && $text === '') {
                    $text = substr($bytes, $at + 8, $many);
                } elseif ($kind === "BIN\0" && $binary === '') {
                    $binary = substr($bytes, $at + 8, $many);
                }
            }
            $bytes = $text;
        }
        $json = json_decode($bytes, true, 64);
        if (! is_array($json) || ! is_array($json['asset'] ?? null)) {
            throw UnreadableFile::at($path, 'JSON', 'it is no glTF: '.(json_last_error() === JSON_ERROR_NONE ? 'there is no "asset"' : json_last_error_msg()));
        }
        if (! str_starts_with((string) ($json['asset']['version'] ?? ''), '2.')) {
            throw UnreadableFile::at($path, 'asset', 'Emberstone reads version 2 of glTF; this is another');
        }

        return new self($path, $json, $binary);
    }

    /** @return array<int, mixed> */
    public function list(string $key): array
    {
        return is_array($this->json[$key] ?? null) ? array_values($this->json[$key]) : [];
    }

    /** How many numbers an element of the accessor has. */
    public function width(int $accessor): int
    {
        return self::WIDTHS[(string) ($this->object('accessors', $accessor)['type'] ?? '')] ?? throw $this->problem($accessor, 'its type is not known');
    }

    /**
     * The numbers of an accessor, flat; normalised ones as 0 to 1 or -1 to 1.
     *
     * @return list<float>
     */
    public function numbers(int $accessor, int $width): array
    {
        $about = $this->object('accessors', $accessor);
        [$bytes, $code, $divisor] = self::KINDS[$about['componentType'] ?? 0] ?? throw $this->problem($accessor, 'its numbers are of a kind that is not known');
        $count = $about['count'] ?? null;
        if (! is_int($count) || $count < 1 || $this->width($accessor) !== $width) {
            throw $this->problem($accessor, "it does not hold one or more elements of $width numbers");
        }
        $wanted = $width * $bytes;
        $values = isset($about['bufferView'])
            ? $this->decoded($this->view((int) $about['bufferView'], (int) ($about['byteOffset'] ?? 0), $count, $wanted, $accessor), $code)
            : array_fill(0, $this->plausible($count, $width, $accessor), 0.0);
        if (isset($about['sparse']) && is_array($about['sparse'])) {
            $this->replace($values, $about['sparse'], $width, $wanted, $code, $accessor);
        }
        $scale = ($about['normalized'] ?? false) === true ? 1.0 / $divisor : 1.0;
        $numbers = [];
        foreach ($values as $value) {
            if (! is_finite((float) $value)) {
                throw $this->problem($accessor, 'it holds a number that is not finite');
            }
            $numbers[] = $value * $scale;
        }

        return $numbers;
    }

    /** Zeros that no file backs must not fill the memory. */
    private function plausible(int $count, int $width, int $accessor): int
    {
        return $count <= 10_000_000 ? $count * $width : throw $this->problem($accessor, 'it promises more elements than the file could hold');
    }

    /**
     * @param  list<int|float>  $values  (changed)
     * @param  array<mixed>  $sparse
     */
    private function replace(array &$values, array $sparse, int $width, int $wanted, string $code, int $accessor): void
    {
        $count = $sparse['count'] ?? 0;
        $where = $sparse['indices'] ?? [];
        $what = $sparse['values'] ?? [];
        $kind = is_array($where) ? (self::KINDS[$where['componentType'] ?? 0] ?? null) : null;
        if (! is_int($count) || $count < 1 || $kind === null || ! is_array($where) || ! is_array($what)) {
            throw $this->problem($accessor, 'its sparse part is incomplete');
        }
        $indices = $this->decoded($this->view((int) ($where['bufferView'] ?? -1), (int) ($where['byteOffset'] ?? 0), $count, $kind[0], $accessor), $kind[1]);
        $new = $this->decoded($this->view((int) ($what['bufferView'] ?? -1), (int) ($what['byteOffset'] ?? 0), $count, $wanted, $accessor), $code);
        foreach ($indices as $k => $index) {
            for ($c = 0; $c < $width; $c++) {
                if (! isset($values[$width * (int) $index + $c])) {
                    throw $this->problem($accessor, 'its sparse part names an element that is not there');
                }
                $values[$width * (int) $index + $c] = $new[$width * $k + $c];
            }
        }
    }

    /** @return list<int|float> */
    private function decoded(string $bytes, string $code): array
    {
        $values = [];
        foreach (str_split($bytes, 65536) as $piece) {
            foreach (unpack($code.'*', $piece) ?: [] as $value) {
                $values[] = $value;
            }
        }

        return $values;
    }

    /** The bytes of $count elements of $size bytes each, without what lies between them. */
    private function view(int $view, int $offset, int $count, int $size, int $accessor): string
    {
        $about = $this->object('bufferViews', $view);
        $stride = (int) ($about['byteStride'] ?? $size);
        $length = (int) ($about['byteLength'] ?? 0);
        $buffer = $this->buffer((int) ($about['buffer'] ?? 0));
        $start = (int) ($about['byteOffset'] ?? 0);
        if ($offset < 0 || $start < 0 || $stride < $size || $length < 0 || $offset + ($count - 1) * $stride + $size > $length || $start + $length > strlen($buffer)) {
            throw $this->problem($accessor, 'it reaches beyond its data; copy the file again');
        }
        if ($stride === $size) {
            return substr($buffer, $start + $offset, $count * $size);
        }
        $bytes = '';
        for ($k = 0, $at = $start + $offset; $k < $count; $k++, $at += $stride) {
            $bytes .= substr($buffer, $at, $size);
        }

        return $bytes;
    }

    private function buffer(int $k): string
    {
        if (isset($this->buffers[$k])) {
            return $this->buffers[$k];
        }
        $uri = $this->object('buffers', $k)['uri'] ?? null;
        if ($uri === null && $k === 0 && $this->binary !== '') {
            return $this->buffers[$k] = $this->binary;
        }
        if (is_string($uri) && preg_match('#^data:[^,]*;base64,#', $uri, $head) === 1) {
            $bytes = base64_decode(substr($uri, strlen($head[0])), true);

            return $this->buffers[$k] = $bytes === false ? throw UnreadableFile::at($this->path, "buffer $k", 'its text is damaged') : $bytes;
        }
        $beside = is_string($uri) ? basename(rawurldecode($uri)) : '';
        $file = dirname($this->path).'/'.$beside;
        if ($beside === '' || str_starts_with($beside, '.') || ! is_file($file)) {
            throw UnreadableFile::at($this->path, "buffer $k", $beside === '' ? 'its data are missing' : "its data should lie beside it in \"$beside\"; bring both in one zip, or write a GLB");
        }

        return $this->buffers[$k] = (string) file_get_contents($file);
    }

    /** @return array<mixed> */
    private function object(string $list, int $k): array
    {
        $object = $this->list($list)[$k] ?? null;

        return is_array($object) ? $object : throw UnreadableFile::at($this->path, $list, "number $k is named but is not there");
    }

    private function problem(int $accessor, string $what): UnreadableFile
    {
        return UnreadableFile::at($this->path, "accessor $accessor", $what);
    }

    /**
     * Writes a GLB, or text with the data in it: faces that were made up apart from measured ones, each kind with a material of its name.
     *
     * @param  resource  $stream
     * @param  float  $metres  what a unit of the geometry is
     * @param  Look  $look  of the body where it was measured
     */
    public static function write($stream, TriangleMesh|PointCloud $geometry, float $metres, bool $asText, Look $look): void
    {
        $positions = $geometry->scaled($metres)->positions;
        $binary = Packed::singles($positions);
        $n = intdiv(count($positions), 3);
        // The limits must be those of the single-precision numbers.
        $box = BoundingBox::of($positions);
        $single = fn (array $at): array => array_map(fn (float $v) => (unpack('g', pack('g', $v)) ?: [1 => 0.0])[1], $at);
        $accessors = [['bufferView' => 0, 'componentType' => 5126, 'count' => $n, 'type' => 'VEC3', 'min' => $single($box->min), 'max' => $single($box->max)]];
        $views = [['buffer' => 0, 'byteOffset' => 0, 'byteLength' => strlen($binary)]];
        $primitive = ['attributes' => ['POSITION' => 0], 'mode' => $geometry instanceof TriangleMesh ? 4 : 0];
        $primitives = $materials = [];
        if ($geometry instanceof TriangleMesh) {
            $extra = '';
            foreach (self::byEvidence($geometry, $look) as $mark => $faces) {
                $primitives[] = $primitive + ['indices' => count($accessors)] + ($mark === '' ? [] : ['material' => count($materials)]);
                $accessors[] = ['bufferView' => 1, 'byteOffset' => strlen($extra), 'componentType' => 5125, 'count' => count($faces), 'type' => 'SCALAR'];
                $extra .= Packed::ints($faces);
                if ($mark !== '') {
                    $materials[] = self::material((int) $mark, $look);
                }
            }
        } else {
            $extra = '';
            foreach ($geometry->colours as $colour) {
                $extra .= pack('N', $colour << 8 | 255);
            }
            if ($extra !== '') {
                $primitive['attributes']['COLOR_0'] = 1;
                $accessors[] = ['bufferView' => 1, 'componentType' => 5121, 'normalized' => true, 'count' => $n, 'type' => 'VEC4'];
            }
            $primitives[] = $primitive;
        }
        if ($extra !== '') {
            $views[] = ['buffer' => 0, 'byteOffset' => strlen($binary), 'byteLength' => strlen($extra)];
        }
        $size = strlen($binary) + strlen($extra);
        $buffer = ['byteLength' => $size] + ($asText ? ['uri' => 'data:application/octet-stream;base64,'.base64_encode($binary.$extra)] : []);
        $json = json_encode([
            'asset' => ['version' => '2.0', 'generator' => 'Emberstone'], 'scene' => 0, 'scenes' => [['nodes' => [0]]], 'nodes' => [['mesh' => 0]],
            'meshes' => [['primitives' => $primitives]], 'accessors' => $accessors, 'bufferViews' => $views, 'buffers' => [$buffer],
        ] + ($materials === [] ? [] : ['materials' => $materials]), JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_PRESERVE_ZERO_FRACTION);
        if ($asText) {
            fwrite($stream, $json);

            return;
        }
        $json .= str_repeat(' ', -strlen($json) & 3);
        fwrite($stream, 'glTF'.pack('VV', 2, 12 + 8 + strlen($json) + 8 + $size).pack('V', strlen($json)).'JSON'.$json.pack('V', $size)."BIN\0");
        fwrite($stream, $binary);
        fwrite($stream, $extra);
    }

    /** @return array<array-key, list<int>> the corners of faces by their mark; all of them by '' where nothing is made up and the body has no look of its own */
    private static function byEvidence(TriangleMesh $mesh, Look $look): array
    {
        $marks = EvidenceColours::marks($mesh);
        if ($marks === []) {
            return [$look->isNone() ? '' : TriangleMesh::MEASURED => $mesh->faces];
        }
        $faces = array_fill_keys($marks, []);
        foreach ($mesh->origin as $t => $mark) {
            array_push($faces[$mark], $mesh->faces[3 * $t], $mesh->faces[3 * $t + 1], $mesh->faces[3 * $t + 2]);
        }

        return $faces;
    }

    /** @return array<string, mixed> what faces of a mark look like; factors of colours are linear there */
    private static function material(int $mark, Look $look): array
    {
        $linear = fn (int $v): float => round($v <= 10 ? $v / 255.0 / 12.92 : (($v / 255.0 + 0.055) / 1.055) ** 2.4, 5);

        return ['name' => $look->name($mark), 'pbrMetallicRoughness' => ['baseColorFactor' => [...array_map($linear, $look->rgb($mark)), 1.0], 'metallicFactor' => 0.0, 'roughnessFactor' => 0.8]];
    }
}
