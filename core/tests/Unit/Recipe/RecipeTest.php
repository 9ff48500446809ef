<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Unit\Recipe;

use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Recipe\Recipe;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

final class RecipeTest extends TestCase
{
    #[Test]
    public function reads_the_example_of_the_contract(): void
    {
        $recipe = Recipe::fromJson('{"recipe": 1, "unit": "mm", "steps": [{"op": "register", "coarse": "auto", "maxDistance": 6.0}, {"op": "remove-outliers", "neighbours": 16, "deviations": 2.5}, {"op": "fuse", "voxel": 0.8}, {"op": "keep-pieces", "largest": 1}, {"op": "fill-holes", "shape": "tangent"}, {"op": "decimate", "ratio": 0.1}]}');
        self::assertCount(6, $recipe->steps);
    }

    /** @return array<string, array{string, string}> */
    public static function wrong(): array
    {
        $steps = fn (string $step) => '{"recipe":1,"steps":[{"op":"fuse","voxel":1},'.$step.']}';

        return [
            'no json' => ['{', 'is not JSON'],
            'version' => ['{"recipe":2,"steps":[]}', '"recipe": 1'],
            'unknown op' => [$steps('{"op":"melt"}'), 'step 2 (melt): op is "melt"'],
            'unknown parameter' => [$steps('{"op":"fuse","voxel":1,"depth":3}'), 'step 2 (fuse): depth is not a parameter'],
            'missing' => [$steps('{"op":"fuse"}'), 'voxel is required'],
            'range' => [$steps('{"op":"decimate","ratio":1.5}'), 'ratio is 1.5; it must be'],
            'zero' => [$steps('{"op":"fuse","voxel":0}'), 'greater than 0'],
            'type' => [$steps('{"op":"fuse","voxel":"big"}'), 'voxel must be a number'],
            'choice' => [$steps('{"op":"fill-holes","shape":"round"}'), 'flat, tangent, curved'],
            'unit' => ['{"recipe":1,"unit":"mile","steps":[{"op":"fuse","voxel":1}]}', 'mm, cm, m, in, ft'],
        ];
    }

    #[Test]
    #[DataProvider('wrong')]
    public function a_wrong_recipe_is_refused_naming_step_and_range(string $json, string $words): void
    {
        $this->expectException(InvalidParameter::class);
        $this->expectExceptionMessage($words);
        Recipe::fromJson($json);
    }
}
