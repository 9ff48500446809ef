<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use Emberstone\Core\Deliver\Handover\Package;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;

/** What was handed over, as a thing of a project: kept as it was, whatever is done later. */
final class HandoverTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private function step(Project $project, string $operation, array $parameters): void
    {
        $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted();
        self::assertSame([$operation, 'done'], [$project->refresh()->head?->operation, $project->head?->state], (string) $project->steps()->latest('id')->first()?->message);
    }

    /** @return array<string, string> bytes by name */
    private static function unpacked(string $zip): array
    {
        $path = tempnam(sys_get_temp_dir(), 'package');
        file_put_contents($path, $zip);
        $archive = new \ZipArchive;
        self::assertTrue($archive->open($path));
        $files = [];
        for ($k = 0; $k < $archive->numFiles; $k++) {
            $files[(string) $archive->getNameIndex($k)] = (string) $archive->getFromIndex($k);
        }
        unlink($path);

        return $files;
    }

    #[Test]
    public function it_says_who_handed_over_what_and_comes_again_bit_for_bit(): void
    {
        $project = $this->withOpenBall();
        $project->update(['brief' => ['unit' => 'in', 'up' => '+y'] + $project->brief]);
        $this->step($project, 'confirm-scale', []);
        $this->step($project, 'add-datum', ['name' => 'Top', 'kind' => 'plane', 'points' => [[0, 0, 1], [5, 0, 1], [0, 5, 1]]]);
        $this->step($project, 'add-datum', ['name' => 'Base', 'kind' => 'plane', 'points' => [[0, 0, -8], [0, 5, -8], [5, 0, -8]]]);
        $this->step($project, 'measure', ['name' => 'Height', 'of' => ['Top', 'Base'], 'nominal' => 9.0, 'plus' => 0.1, 'minus' => 0.1]);
        $this->step($project, 'deliver', ['formats' => ['stl', 'ply'], 'for' => 'Kelter Mill']);
        [$delivery] = $this->state($project->refresh())['snapshot']['artefacts'];
        self::assertSame(['delivery', 'Delivery for Kelter Mill', 2], [$delivery['kind'], $delivery['name'], $delivery['parts']]);
        $address = "/api/projects/$project->id/artefacts/{$delivery['id']}/download";
        $html = (string) $this->get("$address?format=html")->assertOk()->getContent();
        foreach (['for Kelter Mill', 'Height', '9.000', 'in tolerance', 'confirmed by', 'Hand over'] as $words) {
            self::assertStringContainsString($words, $html);
        }
        self::assertStringStartsWith('%PDF-', (string) $this->get("$address?format=pdf")->assertOk()->assertHeader('Content-Type', 'application/pdf')->getContent());
        $zip = (string) $this->get("$address?format=zip")->assertOk()->assertHeader('Content-Disposition', 'attachment; filename="Delivery for Kelter Mill.zip"')->getContent();
        $files = self::unpacked($zip);
        $manifest = json_decode($files[Package::MANIFEST], true);
        self::assertSame(['in', '+y', 'Kelter Mill', $project->owner->name, $project->name], [$manifest['unit'], $manifest['up'], $manifest['for'], $manifest['by'], $manifest['title']]);
        foreach ($manifest['files'] as $file) {
            self::assertSame($file['sha256'], hash('sha256', $files[$file['name']]), $file['name']);
        }

        // What is done later changes nothing in it.
        $this->step($project, 'scale', ['factor' => 2.0]);
        $project->update(['name' => 'Another name', 'brief' => ['unit' => 'mm'] + $project->brief]);
        self::assertNull($project->scaleConfirmed(), 'what was confirmed was another size');
        self::assertSame(hash('sha256', $zip), hash('sha256', (string) $this->get("$address?format=zip")->assertOk()->getContent()));
        $this->getJson("$address?format=dxf")->assertNotFound();
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        $this->getJson("$address?format=zip")->assertNotFound();
    }
}
