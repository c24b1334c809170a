<?php
// Renders a Blade template, given on standard input; its values are the first argument, as JSON.
require_once 'Illuminate/View/autoload.php';
require_once 'Illuminate/Filesystem/autoload.php';
function e($value) { return htmlspecialchars((string) $value, ENT_QUOTES, 'UTF-8'); }
$__env = new class {
    public function addLoop($list) {}
    public function incrementLoopIndices() {}
    public function getLastLoop() { return null; }
    public function popLoop() {}
};
$compiler = new Illuminate\View\Compilers\BladeCompiler(new Illuminate\Filesystem\Filesystem(), sys_get_temp_dir());
$__code = $compiler->compileString(stream_get_contents(STDIN));
extract(json_decode($argv[1], true));
eval('?>' . $__code);
