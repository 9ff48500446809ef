<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;
use Emberstone\Core\Operation\Triples;

/** What `engrave` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class EngraveParameters
{
    public const FONTS = ['sans', 'bold', 'serif', 'mono'];

    /**
     * @param  string  $text  one line or more
     * @param  array<string, mixed>  $at  {"point", "normal", "up"}: the middle of the text in mm; which way it is read from (that of the surface there when left out); and which way its letters stand (Z of the
     *                                    frame, or Y, when left out)
     * @param  string|null  $body  id or name of the one body that is changed; a short way to say `on`
     * @param  array<int, string>|null  $on  ids or names of the bodies that are changed; the one whose surface is nearest to the point when both are null
     */
    public function __construct(
        #[Param('Text', 'What shall stand there.')]
        public string $text,
        #[Param('At', 'The middle of the text: a click on the surface.', picks: 'points')]
        public array $at,
        #[Param('Height', 'Of a capital letter.', unit: 'mm', positive: true)]
        public float $height,
        #[Param('Depth', 'More than 0 raises the letters, less sinks them.', unit: 'mm')]
        public float $depth = -0.5,
        #[Param('Follow the surface', 'Letters are as deep everywhere, however the surface bends; otherwise they end on a plane.')]
        public bool $wrap = false,
        #[Param('Font', 'How the letters look.', choices: self::FONTS)]
        public string $font = 'sans',
        #[Param('Turned', 'The text is turned against the clock.', unit: 'deg')]
        public float $turned = 0.0,
        #[Param('Body', 'The body that is changed.', picks: 'recipe')]
        public ?string $body = null,
        #[Param('On', 'Bodies that are changed.', picks: 'works')]
        public ?array $on = null,
    ) {
        Choice::check($body, $on);
        if (trim($text) === '' || mb_strlen($text) > Lettering::MOST) {
            throw InvalidParameter::of('text', trim($text) === '' ? 'is empty; type what shall stand there' : 'is longer than '.Lettering::MOST.' letters');
        }
        if ($depth === 0.0) {
            throw InvalidParameter::of('depth', 'is 0: more raises the letters, less sinks them');
        }
        $keys = array_intersect_key($at + ['normal' => [0.0, 0.0, 1.0], 'up' => [0.0, 0.0, 1.0]], ['point' => 1, 'normal' => 1, 'up' => 1]);
        Triples::check('at', array_diff_key($at, ['up' => 1]) + ['normal' => $keys['normal']], ['point', 'normal'], 'leave "normal" out');
        Triples::check('at', ['point' => $keys['point'], 'up' => $keys['up']], ['point', 'up'], 'leave "up" out');
    }
}
