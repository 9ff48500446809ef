<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\InvalidParameter;

/** A lighter cloud to look at in place of a heavy one: one point in a number of them, straight from blob to blob. */
final class StandIn
{
    /** Points read at a time. */
    private const CHUNK = 1 << 18;

    /**
     * @param  string  $path  of a cloud's blob
     * @return string the blob of points 0, n, 2n, ...; its head says `every` n
     *
     * @throws InvalidParameter when fewer than every second point is asked for, or the blob holds a mesh
     */
    public static function of(string $path, int $every): string
    {
        if ($every < 2) {
            throw InvalidParameter::outOfRange('every', $every, 2, null);
        }
        $file = fopen($path, 'rb');
        assert($file !== false);
        $start = (string) fread($file, 12);
        $length = (unpack('V', $start, 8) ?: [1 => 0])[1];
        $head = Blob::head($start.(string) fread($file, max(1, $length)));
        if ($head['kind'] !== 'cloud') {
            throw InvalidParameter::of('every', 'is for clouds; a mesh has no stand-in');
        }
        fseek($file, $head['sections']['positions']['offset']);
        $positions = '';
        $left = $head['points'];
        // Point 0 of a chunk is not always one that stays.
        for ($at = 0; $left > 0; $left -= $many) {
            $many = min(self::CHUNK, $left);
            $bytes = (string) stream_get_contents($file, 12 * $many);
            for (; $at < $many; $at += $every) {
                $positions .= substr($bytes, 12 * $at, 12);
            }
            $at -= $many;
        }
        fclose($file);
        unset($head['sections']);

        return Blob::start(['points' => intdiv(strlen($positions), 12), 'every' => $every] + $head, ['positions' => strlen($positions)]).$positions.str_repeat("\0", -strlen($positions) & 7);
    }
}
