<?php

declare(strict_types=1);

namespace Emberstone\Core\Operation;

/**
 * The one home of a parameter's range, unit, default and words. Forms, checks, schema and reference are made from it.
 */
#[\Attribute(\Attribute::TARGET_PROPERTY | \Attribute::TARGET_PARAMETER)]
final readonly class Param
{
    /**
     * @param  string  $unit  `mm`, `mm²`, `deg`, `share`, `measured` (that of the kind of measurement) or empty
     * @param  bool  $positive  zero is out of range too
     * @param  string|null  $suggest  name of a static method of the parameters class: (Workpiece): float|int|null, the default computed from the data
     * @param  list<string>  $choices  the allowed words of a string
     * @param  string|null  $picks  what is picked in the view (`points`, `pairs`, `lengths`, `rims`, `selection`, `box`, `plane`, `axis`, `look`, `strokes`), chosen by name (`names`, `body`, `mesh` (the other body), `ground` (the one that is clicked), `against`, `frame`, `group`, `locked`, `items`, `works`, `measured`) or comes from elsewhere (`clusters`, `target`, `fixture`), has a switch of its own (`flip`), or is said in recipes alone (`recipe`)
     * @param  string  $empty  stands in the empty field: what is taken then; empty for `none`
     * @param  array<string, string|bool|null>  $with  values of other parameters (null: left out) with which this one is of use; forms show it, and send it, only then
     */
    public function __construct(
        public string $label,
        public string $help = '',
        public string $unit = '',
        public ?float $min = null,
        public ?float $max = null,
        public bool $positive = false,
        public ?string $suggest = null,
        public array $choices = [],
        public ?string $picks = null,
        public array $with = [],
        public string $empty = '',
    ) {
    }
}
