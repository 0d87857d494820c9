/** A program by hand, waited for. */
export function link(
  gl: WebGL2RenderingContext,
  vertex: string,
  fragment: string,
): ReturnType<WebGL2RenderingContext['createProgram']> {
  const program = gl.createProgram();
  for (const [type, text] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? '');
  return program;
}
