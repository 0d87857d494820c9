/**
 * The same page by hand: one box, one light, GGX, half-float target with four samples, sRGB. It does
 * what the library does for this picture and nothing else.
 */
const canvas = document.querySelector('canvas')!;
canvas.width = canvas.clientWidth;
canvas.height = canvas.clientHeight;
const gl = canvas.getContext('webgl2', { antialias: false, depth: false })!;
gl.getExtension('EXT_color_buffer_float');

function program(vertex: string, fragment: string): ReturnType<typeof gl.createProgram> {
  const made = gl.createProgram();
  for (const [type, text] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, `#version 300 es\nprecision highp float;\n${text}`);
    gl.compileShader(shader);
    gl.attachShader(made, shader);
  }
  gl.linkProgram(made);
  if (!gl.getProgramParameter(made, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(made) ?? '');
  return made;
}

const lit = program(
  `layout(location=0) in vec3 p; layout(location=1) in vec3 q; uniform mat4 m; out vec3 n; out vec3 w;
  void main(){ n=q; w=p; gl_Position=m*vec4(p,1.); }`,
  `in vec3 n; in vec3 w; out vec4 o;
  void main(){
    vec3 N=normalize(n),V=normalize(vec3(0,0,3)-w),L=normalize(vec3(1,2,3)),H=normalize(L+V);
    float nl=max(0.,dot(N,L)),nv=max(1e-4,dot(N,V)),nh=dot(N,H),vh=dot(V,H),a2=1.,f=nh*nh*(a2-1.)+1.;
    float D=a2/(3.14159265*f*f),G=.5/(nl*sqrt(nv*nv*(1.-a2)+a2)+nv*sqrt(nl*nl*(1.-a2)+a2)+1e-6);
    vec3 F=vec3(1.)*(1.-pow(1.-vh,5.))+pow(1.-vh,5.);
    o=vec4(F*D*G*nl*3.,1.);
  }`,
);
const finish = program(
  'void main(){ gl_Position=vec4(float(gl_VertexID&1)*4.-1.,float(gl_VertexID>>1)*4.-1.,0.,1.); }',
  `uniform sampler2D t; out vec4 o;
  void main(){
    vec4 c=texelFetch(t,ivec2(gl_FragCoord.xy),0);
    o=vec4(mix(c.rgb*12.92,1.055*pow(c.rgb,vec3(1./2.4))-.055,step(.0031308,c.rgb)),c.a);
  }`,
);
const positions: number[] = [];
const normals: number[] = [];
const indices: number[] = [];
for (let axis = 0; axis < 3; axis++) {
  for (const sign of [1, -1]) {
    const first = positions.length / 3;
    for (const [u, v] of [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ] as const) {
      const p = [0, 0, 0];
      p[axis] = sign / 2;
      p[(axis + 1) % 3] = (u * sign) / 2;
      p[(axis + 2) % 3] = v / 2;
      positions.push(...p);
      const n = [0, 0, 0];
      n[axis] = sign;
      normals.push(...n);
    }
    indices.push(first, first + 1, first + 2, first, first + 2, first + 3);
  }
}
[positions, normals].forEach((list, i) => {
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array(list), gl.STATIC_DRAW);
  gl.enableVertexAttribArray(i);
  gl.vertexAttribPointer(i, 3, gl.FLOAT, false, 0, 0);
});
gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, new Uint16Array(indices), gl.STATIC_DRAW);

const { width, height } = canvas;
const samples = gl.createFramebuffer();
gl.bindFramebuffer(gl.FRAMEBUFFER, samples);
const attachments = [
  [gl.COLOR_ATTACHMENT0, gl.RGBA16F],
  [gl.DEPTH_ATTACHMENT, gl.DEPTH_COMPONENT32F],
] as const;
for (const [point, format] of attachments) {
  const buffer = gl.createRenderbuffer();
  gl.bindRenderbuffer(gl.RENDERBUFFER, buffer);
  gl.renderbufferStorageMultisample(gl.RENDERBUFFER, 4, format, width, height);
  gl.framebufferRenderbuffer(gl.FRAMEBUFFER, point, gl.RENDERBUFFER, buffer);
}
const resolved = gl.createFramebuffer();
gl.bindFramebuffer(gl.FRAMEBUFFER, resolved);
const texture = gl.createTexture();
gl.bindTexture(gl.TEXTURE_2D, texture);
gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA16F, width, height);
gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0);

gl.bindFramebuffer(gl.FRAMEBUFFER, samples);
gl.viewport(0, 0, width, height);
gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
gl.enable(gl.DEPTH_TEST);
gl.enable(gl.CULL_FACE);
gl.useProgram(lit);
const f = 1 / Math.tan(0.4);
const matrix = [f / (width / height), 0, 0, 0, 0, f, 0, 0, 0, 0, -1, -1, 0, 0, 2.8, 3];
gl.uniformMatrix4fv(gl.getUniformLocation(lit, 'm'), false, matrix);
gl.drawElements(gl.TRIANGLES, 36, gl.UNSIGNED_SHORT, 0);
gl.bindFramebuffer(gl.READ_FRAMEBUFFER, samples);
gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, resolved);
gl.blitFramebuffer(0, 0, width, height, 0, 0, width, height, gl.COLOR_BUFFER_BIT, gl.NEAREST);
gl.bindFramebuffer(gl.FRAMEBUFFER, null);
gl.disable(gl.DEPTH_TEST);
gl.useProgram(finish);
gl.drawArrays(gl.TRIANGLES, 0, 3);
gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
Object.assign(window, { firstFrame: performance.now() });
export {};
