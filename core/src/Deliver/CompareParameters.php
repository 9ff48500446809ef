<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Datums\DatumPairs;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Operation\Param;

/** What `compare` takes: each parameter says in its #[Param] what it is, its unit and its range. */
final readonly class CompareParameters
{
    /** What `to` says for the points that the bodies were made of. */
    public const PASSES = 'passes';

    /** And for the shapes that were found on each body: how true its faces are. */
    public const SHAPES = 'shapes';

    /** And for each body as it was after an earlier step. */
    public const EARLIER = 'earlier';

    /** What the fit before goes by. */
    public const ALL = 'all';

    public const SELECTION = 'selection';

    public const DATUMS = 'datums';

    /**
     * @param  array<int, array{target: string, indices?: list<int>, ranges?: list<array{int, int}>}>|null  $selection  faces of the bodies, see SelectionParameters
     * @param  array<int, array{from: string, to: string, flip?: bool}>|null  $datums  names or ids: those of the other body, and those of this one that they come to lie on
     * @param  array<int, string>|null  $on  ids or names of the bodies that are looked at; all but the one that they are compared with when null
     */
    public function __construct(
        #[Param('With', 'The raw points of all passes, another body, the shapes that were found on it, or the body itself as it was earlier.', picks: 'against')]
        public string $to = self::PASSES,
        #[Param('As it was after', 'The earlier step: in a recipe its number (from 1; 0 as it was read) or tag.', picks: 'revision', with: ['to' => self::EARLIER])]
        public ?string $revision = null,
        #[Param('Tolerance', 'Up to this far off counts as within; empty leaves that out.', unit: 'mm', positive: true)]
        public ?float $tolerance = null,
        #[Param('Signed', 'Tells outside from inside: more than 0 lies outside the surface that it is measured from.')]
        public bool $signed = true,
        #[Param('Best fit first', 'Lays what it is compared with onto the body, as most of it says, before distances are measured; nothing is moved. Then they tell of the shape alone, not of where it stands.')]
        public bool $bestFit = false,
        #[Param('Fitted by', 'The whole surface; what is selected of it; or up to three datums of the other body laid on those of this one.', choices: [self::ALL, self::SELECTION, self::DATUMS], with: ['bestFit' => true])]
        public string $fitBy = self::ALL,
        #[Param('Selection', 'Faces of the body that the fit goes by.', picks: 'selection', with: ['bestFit' => true, 'fitBy' => self::SELECTION])]
        public ?array $selection = null,
        #[Param('Datums', 'Up to three datums of the other body, and those of this one that they come to lie on, the first deciding most; "flip" where their outsides face each other.', picks: 'datumPairs', with: ['bestFit' => true, 'fitBy' => self::DATUMS])]
        public ?array $datums = null,
        #[Param('On', 'Bodies that are looked at.', picks: 'works')]
        public ?array $on = null,
    ) {
        if ($bestFit && $to === self::SHAPES) {
            throw InvalidParameter::of('bestFit', 'is of passes and bodies: the shapes were found on the body and lie on it');
        }
        if ($to === self::EARLIER && ($revision ?? '') === '') {
            throw InvalidParameter::of('revision', 'is missing; say after which step the body was as it is compared with');
        }
        if ($fitBy === self::SELECTION && $bestFit && ($selection ?? []) === []) {
            throw InvalidParameter::of('selection', 'is missing; select the faces that the fit goes by');
        }
        if ($fitBy === self::DATUMS && $bestFit) {
            if (in_array($to, [self::PASSES, self::EARLIER], true)) {
                throw InvalidParameter::of('fitBy', 'takes datums of two bodies; passes and earlier states have none of their own: fit them by the whole surface or a selection');
            }
            ($datums ?? []) !== [] || throw InvalidParameter::of('datums', 'is missing; choose one to three pairs');
            DatumPairs::check($datums ?? []);
        }
        if ($on === [] || ($on !== null && array_filter($on, fn (mixed $name) => ! is_string($name)) !== [])) {
            throw InvalidParameter::of('on', 'must be a list of one name or more; leave it out for all bodies');
        }
    }
}
