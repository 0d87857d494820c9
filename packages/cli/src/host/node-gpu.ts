import { LensError } from '@umber-lens/core/engine';

const kept = new Set<GPU>();

/** The part of the optional package `webgpu` that is used. */
interface WebgpuPackage {
  create(flags: string[]): GPU;
}

/**
 * A WebGPU device without a browser, by the optional package `webgpu`.
 *
 * @throws LensError `shoot/no-webgpu` when the package or a graphics adapter is missing
 */
export async function openNodeGpu(): Promise<{ gpu: GPUDevice; adapter: string }> {
  const found = await loadPackage();
  const interfaces = found.create([]);
  // The package's devices do not survive it: it must not be collected before them.
  kept.add(interfaces);
  const adapter = await interfaces.requestAdapter();
  if (!adapter) {
    throw new LensError('shoot/no-webgpu', 'WebGPU finds no graphics adapter in Node', {
      hint: 'Name a Vulkan driver in VK_ICD_FILENAMES, or use --backend webgl2.',
    });
  }
  const requiredFeatures = (['float32-filterable'] as const).filter((name) => adapter.features.has(name));
  const { maxSampledTexturesPerShaderStage } = adapter.limits;
  const requiredLimits = { maxSampledTexturesPerShaderStage };
  const gpu = await adapter.requestDevice({ label: 'lens', requiredFeatures, requiredLimits });
  return { gpu, adapter: adapter.info.description || adapter.info.device || 'an adapter' };
}

/** Whether the package is installed. */
export async function hasNodeGpu(): Promise<boolean> {
  return loadPackage().then(
    () => true,
    () => false,
  );
}

async function loadPackage(): Promise<WebgpuPackage> {
  try {
    // Named by a variable, since the types of an optional package may be missing.
    const name = 'webgpu';
    return (await import(name)) as WebgpuPackage;
  } catch (cause) {
    throw new LensError(
      'shoot/no-webgpu',
      'the package "webgpu" is not installed or has no build for this machine',
      {
        hint: 'Install it (npm install webgpu), or use --backend webgl2.',
        cause,
      },
    );
  }
}
