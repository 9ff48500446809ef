<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Algorithms\Parallel\Packed;

/**
 * Writes a cloud's blob from pieces; each section gathers in a file of its own beside the blob. Positions are relative to the first point:
 * the middle is not known before the last.
 *
 * @internal
 */
final class CloudBlobWriter
{
    /** @var array<string, resource> section => its file, removed when closed */
    private array $files = [];

    /** @var array{float, float, float} */
    private array $origin = [0.0, 0.0, 0.0];

    /** @var list<float> */
    private array $min = [INF, INF, INF];

    /** @var list<float> */
    private array $max = [-INF, -INF, -INF];

    private int $points = 0;

    /** @param  array{float, float, float}|null  $sensor */
    public function __construct(private readonly string $path, private readonly ?array $sensor)
    {
    }

    /**
     * @param  list<float>  $positions
     * @param  list<float>  $normals
     * @param  list<int>  $colours
     * @param  list<float>  $confidence
     */
    public function add(array $positions, array $normals, array $colours, array $confidence): void
    {
        if ($positions === []) {
            return;
        }
        if ($this->points === 0) {
            $this->origin = [$positions[0], $positions[1], $positions[2]];
        }
        [$x, $y, $z] = $this->origin;
        [$x0, $y0, $z0] = $this->min;
        [$x1, $y1, $z1] = $this->max;
        for ($o = 0, $n = count($positions); $o < $n; $o += 3) {
            $v = $positions[$o];
            $x0 = $v < $x0 ? $v : $x0;
            $x1 = $v > $x1 ? $v : $x1;
            $positions[$o] = $v - $x;
            $v = $positions[$o + 1];
            $y0 = $v < $y0 ? $v : $y0;
            $y1 = $v > $y1 ? $v : $y1;
            $positions[$o + 1] = $v - $y;
            $v = $positions[$o + 2];
            $z0 = $v < $z0 ? $v : $z0;
            $z1 = $v > $z1 ? $v : $z1;
            $positions[$o + 2] = $v - $z;
        }
        $this->min = [$x0, $y0, $z0];
        $this->max = [$x1, $y1, $z1];
        $this->points += intdiv($n, 3);
        fwrite($this->file('positions'), Packed::singles($positions));
        $normals === [] || fwrite($this->file('normals'), Packed::singles($normals));
        $colours === [] || fwrite($this->file('colours'), Packed::ints($colours));
        $confidence === [] || fwrite($this->file('confidence'), Packed::singles($confidence));
    }

    /** @return float the longest side of the cloud's box */
    public function finish(): float
    {
        $out = fopen($this->path, 'wb');
        assert($out !== false);
        $lengths = array_map(fn ($file) => (int) ftell($file), $this->files);
        fwrite($out, Blob::start(['origin' => $this->origin, 'points' => $this->points, 'bounds' => ['min' => $this->min, 'max' => $this->max], 'kind' => 'cloud', 'sensor' => $this->sensor], $lengths));
        foreach ($this->files as $name => $file) {
            rewind($file);
            stream_copy_to_stream($file, $out);
            fwrite($out, str_repeat("\0", -$lengths[$name] & 7));
            fclose($file);
        }
        $this->files = [];
        fclose($out);

        return max(0.0, $this->max[0] - $this->min[0], $this->max[1] - $this->min[1], $this->max[2] - $this->min[2]);
    }

    /** @return resource */
    private function file(string $section)
    {
        return $this->files[$section] ??= tmpfile() ?: throw new \RuntimeException('There is no room for a temporary file.');
    }
}
