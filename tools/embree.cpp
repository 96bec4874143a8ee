// The yardstick of the ray caster: Embree on one thread, over the same mesh and rays. Files: 32-bit floats and words as the bench writes them.
// embree MESH.positions MESH.indices RAYS ANY ROUNDS: prints seconds of building, bytes, and seconds of casting, each the middle of its rounds.
#include <embree3/rtcore.h>
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <vector>

template <class T> static std::vector<T> all(const char* path) {
  FILE* file = fopen(path, "rb");
  if (!file) { fprintf(stderr, "%s cannot be read\n", path); exit(1); }
  fseek(file, 0, SEEK_END);
  std::vector<T> out(ftell(file) / sizeof(T));
  rewind(file);
  if (fread(out.data(), sizeof(T), out.size(), file) != out.size()) exit(1);
  fclose(file);
  return out;
}
static double now() { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); }
static double middle(std::vector<double> list) { std::sort(list.begin(), list.end()); return list[list.size() / 2]; }
static ssize_t held = 0;
static bool counted(void*, ssize_t bytes, bool) { held += bytes; return true; }

int main(int, char** arguments) {
  auto positions = all<float>(arguments[1]);
  auto indices = all<unsigned>(arguments[2]);
  auto rays = all<float>(arguments[3]);
  bool any = atoi(arguments[4]);
  int rounds = atoi(arguments[5]);
  RTCDevice device = rtcNewDevice("threads=1,set_affinity=0");
  rtcSetDeviceMemoryMonitorFunction(device, counted, nullptr);
  std::vector<double> builds, casts;
  RTCScene scene = nullptr;
  for (int i = 0; i < rounds; i++) {
    if (scene) rtcReleaseScene(scene);
    double start = now();
    scene = rtcNewScene(device);
    RTCGeometry mesh = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    memcpy(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, positions.size() / 3), positions.data(), positions.size() * 4);
    memcpy(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, indices.size() / 3), indices.data(), indices.size() * 4);
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(scene, mesh);
    rtcReleaseGeometry(mesh);
    rtcCommitScene(scene);
    builds.push_back(now() - start);
  }
  size_t count = rays.size() / 8, hits = 0;
  for (int round = 0; round <= rounds; round++) {
    double start = now();
    hits = 0;
    for (size_t i = 0; i < count; i++) {
      const float* from = &rays[i * 8];
      RTCIntersectContext context;
      rtcInitIntersectContext(&context);
      RTCRayHit ray;
      ray.ray.org_x = from[0]; ray.ray.org_y = from[1]; ray.ray.org_z = from[2]; ray.ray.tnear = from[3];
      ray.ray.dir_x = from[4]; ray.ray.dir_y = from[5]; ray.ray.dir_z = from[6]; ray.ray.tfar = from[7];
      ray.ray.time = 0; ray.ray.mask = -1; ray.ray.flags = 0;
      ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
      if (any) { rtcOccluded1(scene, &context, &ray.ray); hits += ray.ray.tfar < 0; }
      else { rtcIntersect1(scene, &context, &ray); hits += ray.hit.geomID != RTC_INVALID_GEOMETRY_ID; }
    }
    if (round > 0) casts.push_back(now() - start);
  }
  printf("{\"build\": %g, \"bytes\": %zd, \"cast\": %g, \"hits\": %zu}\n", middle(builds), held, middle(casts), hits);
}
