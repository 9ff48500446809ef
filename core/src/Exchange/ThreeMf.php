<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Foundation\UnreadableFile;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Mesh\EvidenceColours;
use Emberstone\Core\Mesh\Look;
use Emberstone\Core\Mesh\TriangleMesh;
use ZipArchive;

/**
 * 3MF: meshes with their unit in a zip container. Each item of the build is a mesh of its own, where the item places it.
 *
 * Source    3MF Core Specification 1.3 (objects, components, build, units) and Production Extension 1.1 (objects in other parts).
 * Departs   materials, colours and textures are passed over when read; made-up faces are written in colours of their own (Materials Extension 1.2, colour groups).
 */
final class ThreeMf implements FileFormat
{
    private const UNITS = ['millimeter' => 'mm', 'centimeter' => 'cm', 'meter' => 'm', 'inch' => 'in', 'foot' => 'ft'];

    private const RELATION = 'http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel';

    private const CORE = 'http://schemas.microsoft.com/3dmanufacturing/core/2015/02';

    private const MATERIAL = 'http://schemas.microsoft.com/3dmanufacturing/material/2015/02';

    private const CONTENT_TYPES = '<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
        .'<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        .'<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>';

    public function name(): string
    {
        return '3mf';
    }

    public function endings(): array
    {
        return ['3mf'];
    }

    public function read(string $path): array
    {
        $package = ThreeMfPackage::open($path);
        try {
            $unit = $package->model($package->root())['unit'];
            $items = $package->built();
        } finally {
            $package->close();
        }
        if ($items === []) {
            throw UnreadableFile::at($path, '', 'the build holds no mesh');
        }
        if ($unit !== 'micron' && ! isset(self::UNITS[$unit])) {
            throw UnreadableFile::at($path, 'model', "the unit \"$unit\" is not one of 3MF");
        }
        $things = [];
        foreach ($items as ['name' => $name, 'mesh' => $mesh]) {
            // A micron is no unit of ours: a thousandth of a millimetre.
            $things[] = $unit === 'micron'
                ? new Loaded('3mf', $mesh->withPositions(array_map(fn (float $v) => $v * 0.001, $mesh->positions)), Unit::Millimetre, count($items) > 1 ? $name : '')
                : new Loaded('3mf', $mesh, Unit::from(self::UNITS[$unit]), count($items) > 1 ? $name : '');
        }

        return $things;
    }

    public function write($stream, TriangleMesh|PointCloud $geometry, WriteOptions $options): void
    {
        if ($geometry instanceof PointCloud) {
            throw UnsuitableInput::because('3MF holds meshes only; write a cloud as PLY or XYZ.');
        }
        $model = OwnFile::make();
        $container = OwnFile::make();
        try {
            $this->writeModel($model, $geometry, (string) array_search($options->unit->value, self::UNITS, true), $options->look ?? Look::none());
            $zip = new ZipArchive;
            $zip->open($container, ZipArchive::OVERWRITE);
            $zip->addFromString('[Content_Types].xml', self::CONTENT_TYPES);
            $zip->addFromString('_rels/.rels', '<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
                .'<Relationship Target="/3D/3dmodel.model" Id="rel0" Type="'.self::RELATION.'"/></Relationships>');
            $zip->addFile($model, '3D/3dmodel.model');
            // The same mesh is the same file, whenever it is written: the first day that a zip can tell.
            for ($k = 0; $k < $zip->numFiles; $k++) {
                $zip->setMtimeIndex($k, (int) strtotime('1980-01-01 00:00:00'));
            }
            $zip->close();
            $packed = fopen($container, 'rb');
            assert($packed !== false);
            stream_copy_to_stream($packed, $stream);
            fclose($packed);
        } finally {
            @unlink($model);
            @unlink($container);
        }
    }

    private function writeModel(string $path, TriangleMesh $mesh, string $unit, Look $look): void
    {
        $out = fopen($path, 'wb');
        assert($out !== false);
        $marks = array_flip(EvidenceColours::marks($mesh));
        [$space, $group] = $marks === [] ? ['', ''] : [' xmlns:m="'.self::MATERIAL.'"', self::colours($marks, $look)];
        // A body that is somebody's cast iron is that where it was measured; what was made up has its own colours.
        $group .= $look->isNone() ? '' : self::material($look);
        $plain = ! $look->isNone() ? ' pid="3" pindex="0"' : ($marks === [] ? '' : ' pid="2" pindex="0"');
        // The number of the colour that faces have unless they say another.
        $usual = $look->isNone() || $marks === [] ? 0 : ($marks[TriangleMesh::MEASURED] ?? -1);
        fwrite($out, '<?xml version="1.0" encoding="UTF-8"?>'."\n".'<model unit="'.$unit.'" xml:lang="en-US" xmlns="'.self::CORE.'"'.$space.'><resources>'.$group.'<object id="1" type="model"'.$plain.'><mesh><vertices>');
        $p = $mesh->positions;
        $f = $mesh->faces;
        $buffer = '';
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $buffer .= sprintf("<vertex x=\"%.9g\" y=\"%.9g\" z=\"%.9g\"/>\n", $p[$o], $p[$o + 1], $p[$o + 2]);
            if (strlen($buffer) > 100000) {
                fwrite($out, $buffer);
                $buffer = '';
            }
        }
        $buffer .= '</vertices><triangles>';
        for ($o = 0, $n = count($f); $o < $n; $o += 3) {
            $colour = $marks === [] ? 0 : $marks[$mesh->origin[intdiv($o, 3)]];
            $buffer .= "<triangle v1=\"{$f[$o]}\" v2=\"{$f[$o + 1]}\" v3=\"{$f[$o + 2]}\"".($colour === $usual ? '' : " pid=\"2\" p1=\"$colour\"")."/>\n";
            if (strlen($buffer) > 100000) {
                fwrite($out, $buffer);
                $buffer = '';
            }
        }
        fwrite($out, $buffer.'</triangles></mesh></object></resources><build><item objectid="1"/></build></model>');
        fclose($out);
    }

    /** The colour and name of the body itself. */
    private static function material(Look $look): string
    {
        return sprintf('<basematerials id="3"><base name="%s" displaycolor="#%02X%02X%02X"/></basematerials>', htmlspecialchars($look->name(TriangleMesh::MEASURED), ENT_XML1 | ENT_QUOTES), ...$look->rgb(TriangleMesh::MEASURED));
    }

    /** @param  array<int, int>  $marks */
    private static function colours(array $marks, Look $look): string
    {
        $colours = array_map(fn (int $mark) => sprintf('<m:color color="#%02X%02X%02X"/>', ...$look->rgb($mark)), array_keys($marks));

        return '<m:colorgroup id="2">'.implode('', $colours).'</m:colorgroup>';
    }
}
