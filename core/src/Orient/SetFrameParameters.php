<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `set-frame` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class SetFrameParameters
{
    private const AXES = ['+x', '-x', '+y', '-y', '+z', '-z'];

    public const TO = ['XY', 'YZ', 'XZ', 'X', 'Y', 'Z', 'origin'];

    /**
     * A datum is named, or given as {"datum": "base", "to": "XY", "flip": false}: `to` says what becomes of it.
     *
     * @param  string|array<string, mixed>  $first
     * @param  string|array<string, mixed>|null  $second
     * @param  string|array<string, mixed>|null  $third
     * @param  array<int, float|int>  $offset  mm
     */
    public function __construct(
        #[Param('First datum', 'Decides most: a plane becomes a base, an axis a main axis. A kept frame sets all by itself.', picks: 'frame')]
        public string|array $first,
        #[Param('First points along', 'Where the normal or axis of the first datum shall point, if it is only named.', choices: self::AXES, picks: 'frame')]
        public string $firstAs = '-z',
        #[Param('Second datum', 'Takes away the turn that the first one left.', picks: 'frame')]
        public string|array|null $second = null,
        #[Param('Second points along', 'Where the normal or axis of the second datum shall point, if it is only named.', choices: self::AXES, picks: 'frame')]
        public string $secondAs = '+x',
        #[Param('Third datum', 'Takes away what is still free.', picks: 'frame')]
        public string|array|null $third = null,
        #[Param('Offset', 'Where the place that the datums call the origin lies in the new frame.', unit: 'mm', picks: 'frame')]
        public array $offset = [0.0, 0.0, 0.0],
    ) {
        foreach (['first' => $first, 'second' => $second, 'third' => $third] as $place => $choice) {
            if (is_array($choice)) {
                self::check($place, $choice);
            }
        }
        if (count($offset) !== 3 || array_filter($offset, fn ($v) => ! is_int($v) && ! is_float($v) || ! is_finite((float) $v)) !== []) {
            throw InvalidParameter::of('offset', 'must be three numbers');
        }
        if (is_string($first) && is_string($second) && $firstAs[1] === $secondAs[1]) {
            throw InvalidParameter::of('secondAs', "is $secondAs, but the first datum takes the {$firstAs[1]} axis already; choose another axis");
        }
    }

    /** @param  array<mixed>  $choice */
    private static function check(string $place, array $choice): void
    {
        $unknown = array_diff(array_keys($choice), ['datum', 'to', 'flip']);
        if (! is_string($choice['datum'] ?? null) || $unknown !== []) {
            throw InvalidParameter::of($place, $unknown === [] ? 'needs "datum": the name of one' : 'has '.json_encode(array_values($unknown)[0]).'; it knows datum, to and flip');
        }
        if (isset($choice['to']) && ! in_array($choice['to'], self::TO, true)) {
            throw InvalidParameter::of($place, 'has "to": '.json_encode($choice['to']).'; it must be one of '.implode(', ', self::TO));
        }
        if (isset($choice['flip']) && ! is_bool($choice['flip'])) {
            throw InvalidParameter::of($place, 'has a "flip" that is neither true nor false');
        }
    }
}
