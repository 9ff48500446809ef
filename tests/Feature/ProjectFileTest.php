<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\Step;
use App\Services\BlobStore;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Test;
use Tests\TestCase;
use ZipArchive;

/** A whole project as one file: what is opened is what was saved, bit for bit, and a file that lies is refused in words. */
final class ProjectFileTest extends TestCase
{
    /** @param  array<string, mixed>  $parameters */
    private function step(Project $project, string $operation, array $parameters = []): void
    {
        $this->postJson("/api/projects/$project->id/steps", ['operation' => $operation, 'parameters' => $parameters])->assertAccepted();
        self::assertSame([$operation, 'done'], [$project->refresh()->head?->operation, $project->head?->state], (string) $project->steps()->latest('id')->first()?->message);
    }

    /** A ball with shapes, a datum, a section, a step that was undone, names and a confirmed scale. */
    private function worked(): Project
    {
        $project = $this->withOpenBall();
        $this->step($project, 'find-shapes');
        $this->step($project, 'add-datum', ['name' => 'Ball', 'shape' => ['find' => 'found', 'id' => 'shape-1']]);
        $this->step($project, 'section', ['plane' => 'YZ']);
        $this->step($project, 'shift', ['x' => 0.1, 'y' => 1 / 3]);
        $this->step($project, 'confirm-scale', []);
        $this->step($project, 'decimate', ['ratio' => 0.5]);
        $this->postJson("/api/projects/$project->id/undo")->assertOk();
        $this->patchJson("/api/projects/$project->id", ['labels' => [$this->snapshot($project)['bodies'][0]['id'] => 'Kugel'], 'brief' => ['unit' => 'cm'], 'looks' => [$this->snapshot($project)['bodies'][0]['id'] => ['colour' => '#336699', 'material' => 'cast iron']]])->assertOk();

        return $project->refresh();
    }

    /** @return array<string, mixed> */
    private function snapshot(Project $project): array
    {
        return $project->refresh()->snapshot();
    }

    private function saved(Project $project): string
    {
        return (string) file_get_contents($this->get("/api/projects/$project->id/file")->assertOk()->baseResponse->getFile()->getPathname());
    }

    /** @return Project that it was opened in, by somebody else */
    private function opened(string $bytes, string $name = 'ball.emberstone'): Project
    {
        $other = $this->user('oda');
        $this->actingAs($other);
        $project = $this->project($other);
        $this->postJson("/api/projects/$project->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$this->upload($project, $name, $bytes)]]])->assertAccepted();

        return $project->refresh();
    }

    #[Test]
    public function what_is_opened_is_what_was_saved_and_work_goes_on_there(): void
    {
        $from = $this->worked();
        $bytes = $this->saved($from);
        $was = $from->snapshot();
        $ledger = array_map(fn (Step $step) => [$step->operation, $step->state, $step->figures, $step->snapshot], $from->steps()->orderBy('id')->get()->all());
        // As on another installation: nothing of it is there.
        $this->deleteJson("/api/projects/$from->id")->assertNoContent();

        $to = $this->opened($bytes);
        self::assertSame($was, $to->snapshot());
        self::assertSame(['cm', 'Kugel'], [$to->brief['unit'], $to->labels[$was['bodies'][0]['id']]]);
        self::assertSame('ada', $to->scaleConfirmed()['by'] ?? null);
        // Its look is in the window, in its files, and in what is handed over.
        $body = $was['bodies'][0]['id'];
        self::assertSame(['colour' => '#336699', 'material' => 'cast iron'], $this->state($to)['snapshot']['bodies'][0]['look']);
        self::assertStringContainsString('"cast iron"', (string) file_get_contents($this->get("/api/projects/$to->id/bodies/$body/download?format=glb")->assertOk()->baseResponse->getFile()->getPathname()));
        $this->patchJson("/api/projects/$to->id", ['looks' => [$body => ['colour' => 'navyblu', 'material' => '']]])->assertStatus(422);
        $this->patchJson("/api/projects/$to->id", ['looks' => [$body => ['colour' => null, 'material' => '']]])->assertOk();
        self::assertStringNotContainsString('materials', substr((string) file_get_contents($this->get("/api/projects/$to->id/bodies/$body/download?format=glb")->assertOk()->baseResponse->getFile()->getPathname()), 0, 2000), 'it looks like nothing said');
        $steps = $to->steps()->orderBy('id')->get()->all();
        $opening = array_shift($steps);
        assert($opening !== null);
        self::assertMatchesRegularExpression('/^Opened ".+": 7 steps by /', (string) ($opening->figures['headline'] ?? ''));
        self::assertEquals($ledger, array_map(fn (Step $step) => [$step->operation, $step->state, $step->figures, $step->snapshot], $steps));
        foreach ([...$was['bodies'], ...$was['artefacts']] as $row) {
            self::assertSame($row['blob'], hash('sha256', $this->app->make(BlobStore::class)->get($row['blob'])));
            $this->get("/api/projects/$to->id/blobs/{$row['blob']}")->assertOk();
        }
        self::assertNotNull($steps[0]->load('user')->takenBy());
        $this->state($to);

        // What was undone there is redone here; what is run again has the same ids as there.
        $this->postJson("/api/projects/$to->id/redo")->assertOk();
        $light = $this->snapshot($to)['bodies'][0];
        self::assertSame(array_column($was['bodies'], 'id'), array_column($this->snapshot($to)['bodies'], 'id'));
        $section = $to->steps()->where('operation', 'section')->firstOrFail();
        $this->postJson("/api/projects/$to->id/steps/$section->id/rerun", ['parameters' => ['plane' => 'ZX']])->assertAccepted();
        self::assertSame(['decimate', 'done'], [$to->refresh()->head?->operation, $to->head?->state]);
        self::assertSame(array_column($was['artefacts'], 'id'), array_column($this->snapshot($to)['artefacts'], 'id'));
        self::assertSame($light['blob'], $this->snapshot($to)['bodies'][0]['blob']);
        // Saved once more it holds the same geometry under the same names.
        self::assertStringContainsString($light['blob'], $this->saved($to));
    }

    #[Test]
    public function it_is_opened_by_itself_in_an_empty_project(): void
    {
        $from = $this->worked();
        $bytes = $this->saved($from);
        $this->postJson("/api/projects/$from->id/steps", ['operation' => 'import', 'parameters' => ['uploads' => [$this->upload($from, 'ball.emberstone', $bytes)]]])->assertAccepted();
        $last = $from->steps()->latest('id')->firstOrFail();
        self::assertSame('failed', $last->state);
        self::assertStringContainsString('in a project that is empty', (string) $last->message);
        // The same project twice on one installation: each is its own.
        $twice = $this->opened($bytes);
        self::assertSame($from->refresh()->snapshot(), $twice->snapshot());
        $this->deleteJson("/api/projects/$twice->id")->assertNoContent();
        $this->actingAs($from->owner);
        $this->get("/api/projects/$from->id/blobs/{$from->snapshot()['bodies'][0]['blob']}")->assertOk();
    }

    /** @return iterable<string, array{\Closure(array<string, mixed>, ZipArchive): array<string, mixed>, string}> */
    public static function lies(): iterable
    {
        $blob = fn (array $held): string => $held['steps'][0]['snapshot']['bodies'][0]['blob'];
        $put = function (ZipArchive $zip, string $hash, string $bytes): void {
            $zip->addFromString("blobs/$hash", $bytes);
            $zip->setCompressionName("blobs/$hash", ZipArchive::CM_STORE);
        };
        yield 'geometry that was changed' => [function (array $held, ZipArchive $zip) use ($blob, $put): array {
            $bytes = (string) $zip->getFromName('blobs/'.$blob($held));
            $bytes[strlen($bytes) - 9] = chr(ord($bytes[strlen($bytes) - 9]) ^ 1);
            $put($zip, $blob($held), $bytes);

            return $held;
        }, 'not what it was'];
        yield 'geometry that names points that are not there' => [function (array $held, ZipArchive $zip) use ($blob, $put): array {
            $old = $blob($held);
            $bytes = (string) $zip->getFromName("blobs/$old");
            $length = unpack('V', $bytes, 8)[1] ?? 0;
            $head = json_decode(substr($bytes, 12, $length), true);
            $bytes = substr_replace($bytes, pack('V', 0x7FFFFFFF), 12 + $length + $head['sections']['faces']['offset'], 4);
            $new = hash('sha256', $bytes);
            $put($zip, $new, $bytes);
            $held = json_decode(str_replace($old, $new, (string) json_encode($held)), true);
            $zip->deleteName("blobs/$old");

            return $held;
        }, 'names a point or a face that is not there'];
        yield 'geometry that is missing' => [function (array $held, ZipArchive $zip) use ($blob): array {
            $zip->deleteName('blobs/'.$blob($held));

            return $held;
        }, 'is not in it'];
        yield 'geometry that nobody listed' => [fn (array $held) => ['blobs' => []] + $held, 'geometry that is not in the file'];
        yield 'geometry that is packed' => [function (array $held, ZipArchive $zip) use ($blob): array {
            $zip->setCompressionName('blobs/'.$blob($held), ZipArchive::CM_DEFLATE);

            return $held;
        }, 'is not stored as it is'];
        yield 'a later release' => [fn (array $held) => ['emberstone' => 2, 'software' => '9.1'] + $held, 'of a later release of Emberstone (9.1)'];
        yield 'an operation that is not known' => [function (array $held): array {
            $held['steps'][1]['operation'] = 'polish';

            return $held;
        }, 'a step "polish" that this release does not know'];
        yield 'a step after none' => [function (array $held): array {
            $held['steps'][2]['parent'] = 999_999_999;

            return $held;
        }, 'comes after one that is not there'];
        yield 'a body that is none' => [function (array $held): array {
            $held['steps'][0]['snapshot']['bodies'][0]['transform'] = [1, 2, 3];

            return $held;
        }, 'is not as steps are'];
        yield 'a scale that errs by words' => [function (array $held): array {
            $held['steps'][0]['snapshot']['scaleError'] = 'a little';

            return $held;
        }, 'an error of the scale that is none'];
        yield 'a blob that is a path' => [function (array $held): array {
            $held['steps'][0]['snapshot']['bodies'][0]['blob'] = '../../.env';

            return $held;
        }, 'is not as steps are'];
        yield 'steps that are no list' => [fn (array $held) => ['steps' => 'all of them'] + $held, 'The project file is damaged'];
        yield 'no project' => [fn (array $held) => ['nothing'], 'what should describe the project is none'];
    }

    /** @param  \Closure(array<string, mixed>, ZipArchive): array<string, mixed>  $lie */
    #[Test]
    #[DataProvider('lies')]
    public function a_file_that_lies_is_refused_in_words_and_nothing_of_it_is_kept(\Closure $lie, string $words): void
    {
        $path = tempnam(sys_get_temp_dir(), 'project');
        file_put_contents($path, $this->saved($this->worked()));
        $zip = new ZipArchive;
        $zip->open($path);
        $held = $lie(json_decode((string) $zip->getFromName('project.json'), true), $zip);
        $zip->addFromString('project.json', (string) json_encode($held, JSON_PRESERVE_ZERO_FRACTION));
        $zip->setCompressionName('project.json', ZipArchive::CM_STORE);
        $zip->close();
        $project = $this->opened((string) file_get_contents($path));
        unlink($path);
        $opening = $project->steps()->sole();
        self::assertSame('failed', $opening->state);
        self::assertStringContainsString($words, (string) $opening->message);
        self::assertSame([], glob(storage_path('framework/opening-*')));
        self::assertNull($project->head_step_id);
    }

    #[Test]
    public function what_is_no_such_file_is_told_and_only_members_save_a_project(): void
    {
        $project = $this->opened('not a zip at all');
        self::assertStringContainsString('This is no project file', (string) $project->steps()->sole()->message);
        $from = $this->worked();
        $this->actingAs($this->user('finn'));
        $this->get("/api/projects/$from->id/file")->assertForbidden();
    }
}
