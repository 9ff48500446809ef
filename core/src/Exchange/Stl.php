<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Algorithms\Parallel\Packed;
use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\TriangleMesh;

/** STL, ASCII and binary. Corners in exactly the same place are welded while reading. */
final class Stl implements FileFormat
{
    /** -0.0 in single precision, as bytes. */
    private const MINUS_ZERO = "\0\0\0\x80";

    public function name(): string
    {
        return 'stl';
    }

    public function endings(): array
    {
        return ['stl'];
    }

    public function read(string $path): array
    {
        $size = (int) filesize($path);
        $head = (string) file_get_contents($path, false, null, 0, 84);
        $count = strlen($head) === 84 ? (unpack('V', $head, 80) ?: [1 => 0])[1] : 0;
        $isBinary = $size >= 84 && $size === 84 + 50 * $count;
        if (! $isBinary && stripos(ltrim($head), 'solid') === 0) {
            return [new Loaded('stl', $this->readAscii($path))];
        }
        if ($size < 84) {
            throw UnreadableFile::at($path, "byte $size", 'an STL file is at least 84 bytes long; copy it again');
        }
        if ($size < 84 + 50 * $count) {
            throw UnreadableFile::at($path, 'facet '.intdiv($size - 84, 50), "the header promises $count facets, but the file ends before them; copy it again");
        }

        return [new Loaded('stl', $this->readBinary($path, $count))];
    }

    private function readBinary(string $path, int $count): TriangleMesh
    {
        if ($count === 0) {
            throw UnreadableFile::at($path, '', 'the file holds no facets');
        }
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        fseek($stream, 84);
        $seen = [];
        $bytes = '';
        $keyA = $keyB = $keyC = '';
        $a = $b = $c = 0;
        $faces = array_fill(0, 3 * $count, 0);
        $next = 0;
        $k = 0;
        for ($done = 0; $done < $count; $done += 8192) {
            $many = min(8192, $count - $done);
            $s = (string) stream_get_contents($stream, 50 * $many);
            for ($i = 0, $o = 12; $i < $many; $i++, $o += 50) {
                // Written out: a loop over the corners costs a seventh. In most files a corner or two are those of the facet before.
                $key = substr($s, $o, 12);
                if ($key !== $keyA) {
                    $a = $key === $keyC ? $c : ($seen[$key] ?? -1);
                    if ($a < 0) {
                        $a = $seen[$key] = $next++;
                        $bytes .= $key;
                    }
                    $keyA = $key;
                }
                $faces[$k] = $a;
                $key = substr($s, $o + 12, 12);
                if ($key !== $keyB) {
                    $b = $key === $keyC ? $c : ($seen[$key] ?? -1);
                    if ($b < 0) {
                        $b = $seen[$key] = $next++;
                        $bytes .= $key;
                    }
                    $keyB = $key;
                }
                $faces[$k + 1] = $b;
                $keyC = substr($s, $o + 24, 12);
                $c = $seen[$keyC] ?? -1;
                if ($c < 0) {
                    $c = $seen[$keyC] = $next++;
                    $bytes .= $keyC;
                }
                $faces[$k + 2] = $c;
                $k += 3;
            }
        }
        fclose($stream);
        $seen = [];
        $minusZero = false;
        for ($at = strpos($bytes, self::MINUS_ZERO); $at !== false && ! $minusZero; $at = strpos($bytes, self::MINUS_ZERO, $at + 1)) {
            $minusZero = $at % 4 === 0;
        }
        $positions = Packed::toSingles($bytes);
        // Infinities and what is no number are all that a sum cannot get rid of.
        if (! is_finite(array_sum($positions))) {
            $bad = array_key_first(array_filter($positions, fn (float $value) => ! is_finite($value)));
            if ($bad !== null) {
                throw UnreadableFile::at($path, 'vertex '.intdiv($bad, 3), 'a coordinate is not a finite number');
            }
        }
        $mesh = TriangleMesh::fromFlat($positions, $faces);

        // The byte keys above hold -0.0 and 0.0 apart.
        return $minusZero ? Weld::mesh($mesh, 0.0) : $mesh;
    }

    private function readAscii(string $path): TriangleMesh
    {
        $stream = fopen($path, 'rb');
        assert($stream !== false);
        $positions = [];
        $line = 0;
        while (($text = fgets($stream)) !== false) {
            $line++;
            $text = ltrim($text);
            if (stripos($text, 'vertex') !== 0) {
                continue;
            }
            $words = preg_split('/\s+/', trim($text)) ?: [];
            for ($k = 1; $k < 4; $k++) {
                $positions[] = TextNumber::parse($words[$k] ?? null) ?? throw UnreadableFile::at($path, "line $line", 'a vertex line needs three numbers');
            }
        }
        fclose($stream);
        if ($positions === [] || count($positions) % 9 !== 0) {
            throw UnreadableFile::at($path, "line $line", $positions === [] ? 'the file holds no facets' : 'the last facet has fewer than three vertices; copy the file again');
        }

        return Weld::mesh(TriangleMesh::fromFlat($positions, range(0, intdiv(count($positions), 3) - 1)), 0.0);
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        if ($geometry instanceof PointCloud) {
            throw UnsuitableInput::because('STL holds meshes only; write a cloud as PLY or XYZ.');
        }
        $p = $geometry->positions;
        $f = $geometry->faces;
        $n = count($f);
        fwrite($stream, $options->ascii ? "solid emberstone\n" : str_pad('Emberstone, lengths in mm', 80).pack('V', intdiv($n, 3)));
        $buffer = '';
        for ($o = 0; $o < $n; $o += 3) {
            $a = 3 * $f[$o];
            $b = 3 * $f[$o + 1];
            $c = 3 * $f[$o + 2];
            $ax = $p[$a];
            $ay = $p[$a + 1];
            $az = $p[$a + 2];
            $bx = $p[$b];
            $by = $p[$b + 1];
            $bz = $p[$b + 2];
            $cx = $p[$c];
            $cy = $p[$c + 1];
            $cz = $p[$c + 2];
            $nx = ($by - $ay) * ($cz - $az) - ($bz - $az) * ($cy - $ay);
            $ny = ($bz - $az) * ($cx - $ax) - ($bx - $ax) * ($cz - $az);
            $nz = ($bx - $ax) * ($cy - $ay) - ($by - $ay) * ($cx - $ax);
            $l = sqrt($nx * $nx + $ny * $ny + $nz * $nz);
            $l = $l > 0.0 ? 1.0 / $l : 0.0;
            $buffer .= $options->ascii
                ? sprintf("facet normal %.6g %.6g %.6g\n outer loop\n  vertex %.9g %.9g %.9g\n  vertex %.9g %.9g %.9g\n  vertex %.9g %.9g %.9g\n endloop\nendfacet\n", $nx * $l, $ny * $l, $nz * $l, $ax, $ay, $az, $bx, $by, $bz, $cx, $cy, $cz)
                : pack('g12v', $nx * $l, $ny * $l, $nz * $l, $ax, $ay, $az, $bx, $by, $bz, $cx, $cy, $cz, 0);
            if (strlen($buffer) > 100000) {
                fwrite($stream, $buffer);
                $buffer = '';
            }
        }
        fwrite($stream, $buffer.($options->ascii ? "endsolid emberstone\n" : ''));
    }
}
