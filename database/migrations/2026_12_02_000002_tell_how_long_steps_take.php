<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('steps', function (Blueprint $table): void {
            $table->double('estimated')->nullable();
            $table->timestamp('begun_at')->nullable();
        });
    }

    public function down(): void
    {
        Schema::table('steps', function (Blueprint $table): void {
            $table->dropColumn(['estimated', 'begun_at']);
        });
    }
};
